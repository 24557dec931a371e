import { BLOCK } from '@oleaje/core/contract/block'
import { defineModulator } from '@oleaje/core/contract/modulator'
import { beats } from '@oleaje/core/units/parameter'

/**
 * A made-up modulator: rises and falls once in so many beats, from its lowest at the beginning of the song.
 */
export const swell = defineModulator({
  id: 'swell',
  name: 'Swell',
  tip: 'Rises and falls along the song',
  load: { kB: 1, ns: 20 },
  outputs: ['value'],
  params: {
    length: beats('Length', {
      min: 0.25,
      max: 64,
      default: 4,
      tip: 'Beats from one lowest place to the next',
    }),
  },
  create: () => ({
    reset() {},
    process({ outputs: [value], song }, p) {
      for (let i = 0; i < BLOCK; i++)
        value!.buffer[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * song.beats[i]!) / p.length.value)
      value!.move()
    },
  }),
})
