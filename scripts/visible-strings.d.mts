/** A string that a person can see or hear, with the place in the source where it stands. */
export interface VisibleString {
  readonly file: string
  readonly line: number
  readonly kind: string
  readonly text: string
}
export function visibleStrings(root: string): VisibleString[]
