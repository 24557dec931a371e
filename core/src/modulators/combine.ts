import { BLOCK } from '../contract/block'
import { choice, number, percent, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

export const combinations = [
  'sum',
  'product',
  'largest',
  'smallest',
  'difference',
  'gate',
  'sample and hold',
  'quantise',
  'delay',
] as const

/** Longest delay of a modulator in seconds. */
const LONGEST = 8

/**
 * Combines two modulators, kept within 0…1. Gate: the first while the second is above the level, else
 * nothing. Sample and hold: the first as it was when the second last rose through the level. Quantise and
 * delay work on the first.
 */
export const combine = defineModulator({
  id: 'combine',
  name: 'Combine',
  load: { kB: 44, ns: 40, ring: LONGEST },
  tip: 'Combines two modulators into one',
  outputs: ['result'],
  inputs: ['first', 'second'],
  params: {
    how: choice('How', combinations, 1, 'How the two are combined'),
    first: percent('First', { min: -1, default: 1, tip: 'Amount of the first' }),
    second: percent('Second', { min: -1, default: 1, tip: 'Amount of the second' }),
    level: percent('Level', {
      default: 0.5,
      tip: 'Level of the second that opens the gate or takes a sample',
    }),
    steps: number('Steps', { min: 2, max: 64, default: 4, tip: 'Number of levels after quantising' }),
    time: seconds('Delay', { min: 0, max: LONGEST, default: 0.25, tip: 'Delay of the first' }),
  },
  applies: (param, value) => {
    const how = value('how')
    if (param === 'level') return how === 5 || how === 6
    if (param === 'steps') return how === 7
    if (param === 'time') return how === 8
    return param !== 'second' || how <= 4
  },
  summary: (is) => `${is.text('how')} of ${is.inputs.join(' and ') || 'nothing'}`,
  create: ({ sampleRate }) => {
    const ring = new Float64Array(LONGEST * sampleRate + BLOCK)
    const zeros = new Float64Array(BLOCK)
    // held sample, gate before, write place, samples written since the last reset
    const state = new Float64Array(4)
    return {
      reset() {
        // what is older than the reset counts as nothing, so that memory that was never needed is never
        // touched
        state.fill(0)
      },
      process({ outputs, inputs }, p) {
        const a = inputs[0]?.values() ?? zeros
        const b = inputs[1]?.values() ?? zeros
        const how = p.how.value
        const wa = p.first.values(),
          wb = p.second.values()
        const level = p.level.value
        const top = Math.max(1, Math.round(p.steps.value) - 1)
        const times = p.time.values()
        const y = outputs[0].buffer
        const size = ring.length
        let held = state[0],
          open = state[1],
          at = state[2] | 0,
          age = state[3]
        for (let i = 0; i < BLOCK; i++) {
          const x = wa[i] < 0 ? 1 + a[i] * wa[i] : a[i] * wa[i]
          const z = wb[i] < 0 ? 1 + b[i] * wb[i] : b[i] * wb[i]
          let v: number
          switch (how) {
            case 0:
              v = x + z
              break
            case 1:
              v = x * z
              break
            case 2:
              v = x > z ? x : z
              break
            case 3:
              v = x < z ? x : z
              break
            case 4:
              v = x > z ? x - z : z - x
              break
            case 5:
              v = b[i] >= level ? x : 0
              break
            case 6: {
              const now = b[i] >= level ? 1 : 0
              if (now > open) held = x
              open = now
              v = held
              break
            }
            case 7:
              v = Math.round(x * top) / top
              break
            default: {
              ring[at] = x
              const late = Math.round(times[i] * sampleRate)
              const back = at - late
              v = late > age ? 0 : ring[back < 0 ? back + size : back]
              age++
              if (++at === size) at = 0
            }
          }
          y[i] = v < 0 ? 0 : v > 1 ? 1 : v
        }
        state[0] = held
        state[1] = open
        state[2] = at
        state[3] = age
        outputs[0].move()
      },
    }
  },
})
