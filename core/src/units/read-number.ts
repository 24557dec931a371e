/** A number that came from a file or an edit, kept within bounds; `otherwise` where it is none. */
export const readNumber = (v: unknown, min: number, max: number, otherwise: number): number =>
  typeof v === 'number' && v === v ? Math.min(max, Math.max(min, v)) : otherwise
