/** Frames that the rings of the listening panel hold. */
export const RING_FRAMES = 16_384
/** Live values there is room for. */
export const SLOTS = 8192

/** Fixed places among the live values. */
export const fixedSlots = [
  'beat',
  'playing',
  'blocks',
  'load',
  'worst',
  'limiter',
  'latency',
  'over',
  'dry momentary',
  'dry short',
  'wet momentary',
  'wet short',
  'wet integrated',
  'true peak',
  'missed',
  'fine clock',
] as const
export type FixedSlot = (typeof fixedSlots)[number]

/** Where each fixed value stands. */
export const fixedSlot = Object.fromEntries(fixedSlots.map((name, i) => [name, i])) as Readonly<
  Record<FixedSlot, number>
>

/**
 * Memory that the engine writes and the interface reads at its own pace; shared where the page is isolated.
 */
export interface TelemetryMemory {
  readonly buffer: ArrayBufferLike
  readonly values: Float32Array
  /** Dry sum, processed left and right, modulator; see `Probe`. */
  readonly rings: readonly Float32Array[]
  /** Where the rings will be written next. */
  readonly head: Int32Array
}

export function telemetryMemory(buffer: ArrayBufferLike = new ArrayBuffer(telemetryBytes)): TelemetryMemory {
  const values = new Float32Array(buffer, 16, SLOTS)
  const rings = [0, 1, 2, 3].map(
    (k) => new Float32Array(buffer, 16 + 4 * SLOTS + 4 * RING_FRAMES * k, RING_FRAMES),
  )
  return { buffer, values, rings, head: new Int32Array(buffer, 0, 4) }
}

export const telemetryBytes = 16 + 4 * SLOTS + 4 * 4 * RING_FRAMES

/** Gives every live value its place. A place is never given to another value before all are reassigned. */
export class SlotMap {
  private slots = new Map<string, number>(fixedSlots.map((name, i) => [name, i]))
  /** Counts how often all places have been reassigned. */
  generation = 0

  /** How many places have been given. */
  get size(): number {
    return this.slots.size
  }

  /** The place of a key; −1 when all are taken. */
  of(key: string): number {
    const known = this.slots.get(key)
    if (known !== undefined) return known
    if (this.slots.size >= SLOTS) return -1
    this.slots.set(key, this.slots.size)
    return this.slots.size - 1
  }

  /** Forgets all places but the fixed ones, since most belong to what is no longer there. */
  renew(): void {
    this.slots = new Map(fixedSlots.map((name, i) => [name, i]))
    this.generation++
  }

  /** The places after the first so many. */
  since(count: number): [string, number][] {
    const list: [string, number][] = []
    let i = 0
    for (const entry of this.slots) if (i++ >= count) list.push(entry)
    return list
  }
}
