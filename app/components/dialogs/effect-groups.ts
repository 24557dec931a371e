import type { EffectGroup } from '@oleaje/core/contract/effect'

/** The groups of effects, in the order in which they are listed. */
export const effectGroups: Record<EffectGroup, string> = {
  level: 'Level and stereo',
  filter: 'Filters and tone',
  dirt: 'Distortion',
  dynamics: 'Dynamics',
  time: 'Time and pitch',
  space: 'Space',
}
