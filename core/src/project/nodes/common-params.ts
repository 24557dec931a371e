import { type ParamSpecs, percent, toggle } from '../../units/parameter'

/** What every effect has besides its own parameters; the engine does these, with the dry path in time. */
export const commonParams = {
  on: toggle('On', true, 'Switches the effect off and on without a click', { edit: 'switched' }),
  wet: percent('Wet', { default: 1, tip: 'Share of the processed sound; the rest is dry, in time with it' }),
} satisfies ParamSpecs
