import { wavHeader } from '@oleaje/core/formats/wav'
import type { LongSound, Sound } from '../contract/messages'

/** Something that sounds beside the engine, until it ends or is stopped. */
export interface Playing {
  readonly stop: () => void
}

/** Plays a sound beside the engine. */
export function playBeside(context: AudioContext, sound: Sound): Playing | Promise<Playing> {
  if (sound.long) return playLong(context, sound.long)
  const source = context.createBufferSource()
  source.buffer = bufferOf(context, sound)
  source.connect(context.destination)
  source.start()
  return {
    stop: () => {
      source.stop()
      source.disconnect()
    },
  }
}

/** The browser streams a long sound as a WAV file: its bytes with a header. */
async function playLong(
  context: AudioContext,
  { data, frames, sampleRate, channelCount }: LongSound,
): Promise<Playing> {
  const url = URL.createObjectURL(
    new Blob([wavHeader({ channels: channelCount, sampleRate, depth: 32, frames }), data], {
      type: 'audio/wav',
    }),
  )
  const player = new Audio(url)
  const source = context.createMediaElementSource(player)
  source.connect(context.destination)
  await player.play()
  return {
    stop: () => {
      player.pause()
      source.disconnect()
      player.removeAttribute('src')
      URL.revokeObjectURL(url)
    },
  }
}

/** Clicks, the first one higher; gives the seconds until the one that would follow. */
export function clickBeside(context: AudioContext, count: number, seconds: number): number {
  const begin = context.currentTime + 0.05
  for (let i = 0; i < count; i++) {
    const [tone, level] = [context.createOscillator(), context.createGain()]
    tone.frequency.value = i === 0 ? 1600 : 1100
    level.gain.setValueAtTime(0.25, begin + i * seconds)
    level.gain.exponentialRampToValueAtTime(0.001, begin + i * seconds + 0.05)
    tone.connect(level).connect(context.destination)
    tone.start(begin + i * seconds)
    tone.stop(begin + i * seconds + 0.06)
  }
  return 0.05 + count * seconds
}

/** A sound that is held, as the browser takes it. */
export function bufferOf(context: AudioContext, sound: Sound): AudioBuffer {
  const buffer = context.createBuffer(sound.channels.length, sound.channels[0]?.length ?? 1, sound.sampleRate)
  sound.channels.forEach((c, i) => buffer.copyToChannel(new Float32Array(c), i))
  return buffer
}
