import { BLOCK } from '../contract/block'
import { choice, percent, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

/**
 * One control that moves many: its output is its value, or as a switch one of two states with a glide between
 * them.
 */
export const macro = defineModulator({
  id: 'macro',
  name: 'Macro',
  restsLow: true,
  load: { kB: 10, ns: 5 },
  tip: 'One control that moves many',
  outputs: ['value'],
  byHand: true,
  params: {
    value: percent('Value', { default: 0.5, glide: 0.02, tip: 'Value of the macro' }),
    mode: choice('Mode', ['glides', 'switch'], 0, 'A continuous control, or a switch'),
    glide: seconds('Glide', {
      min: 0,
      max: 30,
      default: 0.05,
      tip: 'Glide time of the switch',
    }),
  },
  isMacro: true,
  create: ({ sampleRate }) => {
    const state = new Float64Array([NaN])
    return {
      reset() {
        state[0] = NaN
      },
      process({ outputs }, p) {
        const out = outputs[0]
        if (p.mode.value === 1) {
          const wanted = p.value.value >= 0.5 ? 1 : 0
          let now = state[0] === state[0] ? state[0] : wanted
          if (now === wanted) out.hold(now)
          else {
            const step = p.glide.value > 0 ? 1 / (p.glide.value * sampleRate) : 1
            const y = out.buffer
            for (let i = 0; i < BLOCK; i++) {
              const d = wanted - now
              now += d > step ? step : d < -step ? -step : d
              y[i] = now
            }
            out.move()
          }
          state[0] = now
        } else {
          state[0] = NaN
          if (p.value.constant) out.hold(p.value.value)
          else {
            out.buffer.set(p.value.buffer)
            out.move()
          }
        }
      },
    }
  },
})
