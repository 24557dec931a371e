import type { Track } from '@oleaje/core/project/schema'
import { type Ref, shallowRef, watch } from 'vue'
import { useSession } from './useSession'

/**
 * What was found in a sound: places of its hits as shares of its length, its tempo and its length in quarter
 * notes.
 */
export interface Found {
  readonly hits: readonly number[]
  readonly tempo: number
  readonly beats: number
}

const known = new Map<string, Found>()
/** Sounds longer than this are not looked through, in seconds. */
export const LONGEST = 120

/**
 * What is found in a track's sound, once it has been looked through; null before, and for a track without.
 */
export function useHits(track: () => Track | undefined): Ref<Found | null> {
  const { host, heavy } = useSession()
  const found = shallowRef<Found | null>(null)
  const hash = (): string => track()?.source?.audio ?? ''
  watch(
    () => host.sound(hash()),
    async (sound) => {
      found.value = known.get(hash()) ?? null
      const frames = sound?.channels[0]?.length ?? 0
      if (!sound || found.value || frames === 0 || frames > LONGEST * sound.sampleRate) return
      const { at, tempo, beats } = await heavy.call.findTempo([...sound.channels], sound.sampleRate)
      known.set(sound.hash, { hits: at.map((f) => f / frames), tempo, beats })
      if (hash() === sound.hash) found.value = known.get(sound.hash) ?? null
    },
    { immediate: true },
  )
  return found
}

/**
 * Frame nearest to another at which a sound crosses zero, within so many frames; the same one where it does
 * not.
 */
export function zeroCrossing(x: Float32Array, frame: number, within: number): number {
  for (let d = 0; d <= within; d++) {
    for (const at of [frame - d, frame + d]) {
      if (at > 0 && at < x.length && (x[at - 1] ?? 0) < 0 !== (x[at] ?? 0) < 0) return at
    }
  }
  return frame
}
