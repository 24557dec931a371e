/** Temporary ways of listening. Never saved, never rendered. */
export interface Monitor {
  /** Tracks heard alone; empty for all. */
  readonly soloTracks: readonly string[]
  /** Track that is not heard, as a live input that is only recorded. */
  readonly unheardTrack: string | null
  /** Branches heard alone within their split. */
  readonly soloBranches: readonly string[]
  /** Track heard without its chain. */
  readonly dryTrack: string | null
  /** Node after which the rest of its chain is left out. */
  readonly upTo: string | null
  /**
   * Effect of which only the wet signal is heard, or only what it adds; what comes after it in its chain is
   * left out.
   */
  readonly part: { readonly node: string; readonly what: 'wet' | 'difference' } | null
  /** Items of an effect's lanes heard alone: bands of an EQ. */
  readonly items: { readonly node: string; readonly chosen: readonly number[] } | null
  /** Level-matching factor of the selected track, linear. */
  readonly match: { readonly track: string; readonly gain: number } | null
  /** Modulator heard alone: what all others give that are not moved by hand stands still. */
  readonly alone: string | null
  /** Signals for the listening views. */
  readonly probe: { readonly track: string; readonly modulator: string | null } | null
}

export const openMonitor: Monitor = {
  soloTracks: [],
  unheardTrack: null,
  soloBranches: [],
  dryTrack: null,
  upTo: null,
  part: null,
  items: null,
  match: null,
  alone: null,
  probe: null,
}
