import { type ParamSpecs, percent, toggle } from '../../units/parameter'

/** What every effect has besides its own parameters; the engine does these, with the dry path in time. */
export const commonParams = {
  on: toggle('On', true, 'Turns the effect on or off without a click', { edit: 'switched' }),
  wet: percent('Wet', { default: 1, tip: 'Balance of dry (0 %) and processed sound (100 %)' }),
} satisfies ParamSpecs
