/** What the list of the Shelf is narrowed to. */
export interface ShelfFilter {
  readonly scope: 'all' | 'shipped' | 'mine' | 'favourites' | 'recent'
  readonly tags: readonly string[]
  readonly materials: readonly string[]
  /** Type of an effect that must be inside; empty for any. */
  readonly effect: string
}

export const noFilter: ShelfFilter = { scope: 'all', tags: [], materials: [], effect: '' }
