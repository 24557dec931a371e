import type { Track } from '@oleaje/core/project/schema'
import { type Ref, shallowRef, watch } from 'vue'
import { useSession } from './useSession'

const PLACES = 4096
const known = new Map<string, Float32Array>()

/** The peaks of a track's sound over its length, once it is there; null for a track without. */
export function useWave(track: () => Track | undefined): Ref<Float32Array | null> {
  const { host, heavy } = useSession()
  const peaks = shallowRef<Float32Array | null>(null)
  const hash = (): string => track()?.source?.audio ?? ''
  watch(
    () => host.sound(hash()),
    async (sound) => {
      peaks.value = known.get(hash()) ?? null
      if (!sound || peaks.value) return
      const found = await heavy.call.peaks(sound.long ? [sound.long.peaks] : [...sound.channels], PLACES)
      known.set(sound.hash, found)
      if (hash() === sound.hash) peaks.value = found
    },
    { immediate: true },
  )
  return peaks
}

/** Peaks that are looked at for one column of a picture at most. */
const LOOKED_AT = 16

/**
 * The loudest of a table of peaks between two shares of its sound, in either direction, by {@link LOOKED_AT}
 * of them where they are many; 0 where either share is none.
 */
export function loudestBetween(table: Float32Array, a: number, b: number): number {
  const n = table.length
  if (Number.isNaN(a) || Number.isNaN(b)) return 0
  // further apart, a round has ended between them
  const [from, to] = Math.abs(b - a) > 0.5 ? [a, a] : [Math.min(a, b), Math.max(a, b)]
  let most = 0
  const step = Math.max(1, Math.ceil(((to - from) * n) / LOOKED_AT))
  for (let i = Math.floor(from * n); i <= Math.min(n - 1, Math.floor(to * n)); i += step)
    most = Math.max(most, table[i] as number)
  return most
}

/** How a loop lies on the song: which share of its sound is heard at a beat. */
export function wavePlace(
  track: Track,
  frames: number,
  tempo: number,
  sampleRate: number,
): (beat: number) => number {
  const { source } = track
  const p = source?.params ?? {}
  const play = p.play ?? 0
  const own = play === 0 ? 1 : tempo / (p.tempo ?? tempo)
  // stretched, tuning moves the pitch alone
  const speed = play === 2 ? own : own * 2 ** ((p.tune ?? 0) / 12)
  const start = (p.start ?? 0) * frames
  const end = Math.max(start + 64, (p.end ?? 1) * frames)
  const back = Math.min(Math.max(start, (p.loopFrom ?? 0) * frames), end - 64)
  const intro = back - start
  return (beat) => {
    const passed = (((beat - (p.at ?? 0)) * 60) / tempo) * sampleRate * speed
    if (passed < 0) return NaN
    const place = passed < intro ? start + passed : back + ((passed - intro) % (end - back))
    return ((p.reverse ?? 0) >= 0.5 ? start + end - place : place) / frames
  }
}
