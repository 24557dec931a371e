/** What the picture of an effect is of, and what of a measured response is shown. */
export const pictureOf = [
  { value: 'own', text: 'effect' },
  { value: 'branch', text: 'branch' },
  { value: 'up to here', text: 'chain up to here' },
] as const
export const responseViews = [
  { value: 'magnitude', text: 'Magnitude' },
  { value: 'phase', text: 'Phase' },
  { value: 'delay', text: 'Group delay' },
] as const
