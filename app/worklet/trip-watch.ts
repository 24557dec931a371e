const TRIPS = 'trips:'

/** Looks at the counters of all guards, and tells of each that has risen. */
export class TripWatch {
  private readonly keys: string[] = []
  private readonly places: number[] = []
  private readonly seen: number[] = []

  /** Takes the places of live values. @param replaces whether they replace all known places */
  follow(entries: readonly (readonly [key: string, place: number])[], replaces: boolean): void {
    if (replaces) this.keys.length = this.places.length = this.seen.length = 0
    for (const [key, place] of entries) {
      if (!key.startsWith(TRIPS) || place < 0) continue
      this.keys.push(key.slice(TRIPS.length))
      this.places.push(place)
      this.seen.push(0)
    }
  }

  /** @param tell told the key of each step whose guard has tripped since the last look */
  look(values: Float32Array, tell: (key: string) => void): void {
    const { keys, places, seen } = this
    for (let i = 0; i < places.length; i++) {
      const now = values[places[i] ?? 0] ?? 0
      // a recreated step counts from zero
      if (now > (seen[i] ?? 0)) tell(keys[i] ?? '')
      seen[i] = now
    }
  }
}
