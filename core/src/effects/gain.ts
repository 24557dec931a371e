import { choice, factor, gain } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Level in dB, or a signed factor that goes through zero into opposite polarity. Any level in, any level out.
 */
export const gainEffect = defineEffect({
  id: 'gain',
  name: 'Gain',
  group: 'level',
  load: { kB: 25, ns: 35 },
  tip: 'Changes the level, or inverts the polarity',
  also: ['volume', 'level', 'trim', 'polarity', 'invert', 'amplify'],
  params: {
    mode: choice('Mode', ['level', 'factor'], 0, 'Sets the level in dB, or as a signed factor'),
    level: gain('Level', { min: -72, max: 36, default: 0, tip: 'Level in dB; the minimum is silence' }),
    factor: factor('Factor', {
      min: -2,
      max: 2,
      default: 1,
      tip: 'Signed factor; negative values invert the polarity',
    }),
  },
  applies: (param, value) => param === 'mode' || (param === 'factor') === value('mode') >= 0.5,
  presets: [
    { name: 'Half as loud', tip: '−10 dB', params: { level: -10 } },
    { name: 'Inverted', tip: 'Inverts the polarity', params: { mode: 1, factor: -1 } },
    { name: 'Zero, for a link', tip: 'Silent until a link moves it', params: { mode: 1, factor: 0.5 } },
    { name: 'Six up', tip: '+6 dB', params: { level: 6 } },
  ],
  create: () => ({
    reset() {},
    process({ in: input, out }, p) {
      const by = p.mode.value === 0 ? p.level : p.factor
      const { left, right } = input
      const outL = out.left
      const outR = out.right
      if (by.constant) {
        const g = by.value
        for (let i = 0; i < left.length; i++) {
          outL[i] = left[i] * g
          outR[i] = right[i] * g
        }
      } else {
        const g = by.buffer
        for (let i = 0; i < left.length; i++) {
          outL[i] = left[i] * g[i]
          outR[i] = right[i] * g[i]
        }
      }
    },
  }),
})
