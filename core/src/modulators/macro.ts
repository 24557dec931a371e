import { percent } from '../units/parameter'
import { defineModulator } from './definition'

/** One control that moves many: its output is its value. */
export const macro = defineModulator({
  id: 'macro',
  name: 'Macro',
  tip: 'One control that moves many through links',
  outputs: ['value'],
  params: {
    value: percent('Value', { default: 0.5, glide: 0.02, tip: 'Where the macro stands' }),
  },
  create: () => ({
    reset() {},
    process({ outputs }, p) {
      if (p.value.constant) outputs[0].hold(p.value.value)
      else {
        outputs[0].buffer.set(p.value.buffer)
        outputs[0].move()
      }
    },
  }),
})
