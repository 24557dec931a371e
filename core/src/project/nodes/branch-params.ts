import { type ParamSpecs, factor, gain, pan, toggle } from '../../units/parameter'

/** The end of a branch, where the paths of a split merge. */
export const branchParams = {
  level: gain('Level', { min: -72, max: 12, default: 0, tip: 'Level of the branch where the paths merge' }),
  pan: pan('Pan', { tip: 'Pan position' }),
  polarity: factor('Polarity', {
    min: -1,
    max: 1,
    default: 1,
    tip: 'Polarity: 1 is normal, −1 inverted',
  }),
  mute: toggle('Mute', false, 'Mutes the branch', { edit: 'switched' }),
} satisfies ParamSpecs
