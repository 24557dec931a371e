import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { useSession } from '../../composables/useSession'

/**
 * The last third of a second of what is listened to: dry, left, right, the traced modulator; and the beat at
 * its end.
 */
export interface HeardRing {
  readonly dry: Float32Array
  readonly left: Float32Array
  readonly right: Float32Array
  readonly modulator: Float32Array
  readonly end: number
  readonly beat: number
}

/** The present sound, or the sound at the time of freezing. */
export function useRings(): () => HeardRing {
  const { host, screen } = useSession()
  const kept = [0, 1, 2, 3].map(() => new Float32Array(RING_FRAMES)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  let frozen: HeardRing | null = null
  return () => {
    const { rings, head } = host.telemetry.memory
    if (screen.frozen && frozen) return frozen
    const [dry, left, right, modulator] = rings as [Float32Array, Float32Array, Float32Array, Float32Array]
    const now = { dry, left, right, modulator, end: head[0] ?? 0, beat: host.telemetry.fixed('beat') }
    frozen = null
    if (screen.frozen) {
      kept.forEach((k, i) => k.set(rings[i] ?? k))
      frozen = { ...now, dry: kept[0], left: kept[1], right: kept[2], modulator: kept[3] }
    }
    return now
  }
}
