import { poleFor } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { percent, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

/**
 * A control of a device, or a key, as motion: it moves the value, which goes smoothed into a range of its
 * own.
 */
export const controller = defineModulator({
  id: 'controller',
  name: 'Controller',
  load: { kB: 12, ns: 48 },
  tip: 'Turns a MIDI control, wheel, pedal or key into motion',
  outputs: ['value'],
  byHand: true,
  params: {
    value: percent('Value', { default: 0, glide: 0, tip: 'Position of the control' }),
    low: percent('Low', { default: 0, tip: 'Output at the minimum' }),
    high: percent('High', { default: 1, tip: 'Output at the maximum; may be below Low' }),
    smooth: seconds('Smoothing', {
      min: 0,
      max: 2,
      default: 0.03,
      tip: 'Smoothing time; hides the steps of a coarse control',
    }),
  },
  learns: 'value',
  summary: (is) => is.control || 'controller · unassigned',
  create: ({ sampleRate }) => {
    const state = new Float64Array([NaN])
    return {
      reset() {
        state[0] = NaN
      },
      process({ outputs }, p) {
        const out = outputs[0]
        const wanted = p.value.value
        let now = state[0] === state[0] ? state[0] : wanted
        const low = p.low.value
        const high = p.high.value
        if (p.value.constant && Math.abs(now - wanted) < 1e-7 && p.low.constant && p.high.constant) {
          state[0] = wanted
          out.hold(low + (high - low) * wanted)
          return
        }
        const pole = poleFor(p.smooth.value / 3, sampleRate)
        const values = p.value.values(),
          lows = p.low.values(),
          highs = p.high.values()
        const y = out.buffer
        for (let i = 0; i < BLOCK; i++) {
          now = values[i] + pole * (now - values[i])
          y[i] = lows[i] + (highs[i] - lows[i]) * now
        }
        state[0] = now
        out.move()
      },
    }
  },
})
