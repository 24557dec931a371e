/** Subjects and quantities of response pictures. */
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
