import { type ParamSpecs, percent, toggle } from '../../units/parameter'

/** Parameters that every effect has. The engine implements them, with an aligned dry path. */
export const commonParams = {
  on: toggle('On', true, 'Turns the effect on or off without a click', { edit: 'switched' }),
  wet: percent('Wet', { default: 1, tip: 'Balance of dry (0 %) and processed sound (100 %)' }),
} satisfies ParamSpecs
