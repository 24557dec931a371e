import type { AudioData } from '@oleaje/core/contract/audio'
import { storedAudio } from '@oleaje/core/formats/stored-sound'
import type { LongSound, Sound } from '../contract/messages'

/**
 * Sounds for a render: held ones as they are, long ones read from where they are kept as the render comes to
 * them.
 */
export function audioOf(sounds: readonly Sound[]): Map<string, AudioData> {
  return new Map(sounds.map((s) => [s.hash, s.long ? readAsNeeded(s.long, s.sampleRate) : s]))
}

/** A long sound, read from where it is kept as it is needed. */
export function readAsNeeded(long: LongSound, sampleRate: number): AudioData {
  const reader = new FileReaderSync()
  return storedAudio(
    long,
    sampleRate,
    (from, to) => new Uint8Array(reader.readAsArrayBuffer(long.data.slice(from, to))),
  )
}
