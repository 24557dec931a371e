import {
  type FixedSlot,
  type TelemetryMemory,
  fixedSlots,
  telemetryMemory,
} from '@oleaje/core/engine/telemetry'

/** Live values as the interface reads them, at its own pace. Plain memory, never reactive. */
export class Telemetry {
  memory: TelemetryMemory
  private slots = new Map<string, number>(fixedSlots.map((name, i) => [name, i]))

  constructor(buffer: ArrayBufferLike) {
    this.memory = telemetryMemory(buffer)
  }

  setSlots(entries: [string, number][], anew: boolean): void {
    if (anew) this.slots = new Map(entries)
    else for (const [key, slot] of entries) this.slots.set(key, slot)
  }

  /** Number of live values that have a place: it grows when something new plays. */
  get size(): number {
    return this.slots.size
  }

  fixed(name: FixedSlot): number {
    return this.memory.values[fixedSlots.indexOf(name)] ?? 0
  }

  /** A live value by its key; `missing` while the engine does not give it. */
  get(key: string, missing = 0): number {
    const slot = this.slots.get(key)
    return slot === undefined || slot < 0 ? missing : (this.memory.values[slot] ?? missing)
  }

  /** Sum of the costs of a step, and of the copies that its key is the beginning of. */
  cost(key: string): number {
    let sum = this.get(`cost:${key}`)
    if (key.includes('~'))
      for (const name of this.slots.keys()) if (name.startsWith(`cost:${key}#`)) sum += this.get(name)
    return sum
  }

  has(key: string): boolean {
    return this.slots.has(key)
  }
}
