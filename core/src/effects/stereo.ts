import { Crossover } from '../dsp/crossover'
import { BLOCK } from '../contract/block'
import { choice, gain, hertz, pan, percent } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Place and width: middle and sides at their own levels, polarity and swap of the channels, mono below a frequency. */
export const stereo = defineEffect({
  id: 'stereo',
  name: 'Stereo',
  group: 'level',
  tip: 'Pan, width, middle and sides, polarity, mono below a frequency',
  params: {
    pan: pan('Pan', { tip: 'Place between left and right' }),
    width: percent('Width', { max: 2, default: 1, tip: '0 % is mono, 200 % is sides only' }),
    mid: gain('Middle', { min: -72, max: 12, default: 0, tip: 'Level of what both sides share' }),
    side: gain('Sides', { min: -72, max: 12, default: 0, tip: 'Level of what differs between them' }),
    channels: choice('Channels', ['as they are', 'swapped', 'left to both', 'right to both'], 0, 'Which channel goes where'),
    polarity: choice('Polarity', ['as it is', 'left inverted', 'right inverted', 'both inverted'], 0, 'Turns channels upside down'),
    monoBelow: hertz('Mono below', { min: 20, max: 1000, default: 20, tip: 'Below this both sides are the same; at its lowest nothing is' }),
  },
  tail: (v) => (v.monoBelow > 20.01 ? 0.3 : 0),
  presets: [
    { name: 'Wide deck', params: { width: 1.5, monoBelow: 150 } },
    { name: 'One mast', params: { width: 0 } },
    { name: 'Feet together', params: { monoBelow: 220 } },
    { name: 'Other way round', params: { channels: 1, side: -2 } },
  ],
  create: ({ sampleRate }) => {
    const low = new Crossover()
    const high = new Crossover()
    const lowL = new Float32Array(BLOCK)
    const lowR = new Float32Array(BLOCK)
    return {
      reset() {
        low.reset()
        high.reset()
      },
      process({ in: input, out }, p) {
        const way = p.channels.value
        const inL = way === 1 || way === 3 ? input.right : input.left
        const inR = way === 1 || way === 2 ? input.left : input.right
        const signL = p.polarity.value === 1 || p.polarity.value === 3 ? -1 : 1
        const signR = p.polarity.value >= 2 ? -1 : 1
        const pans = p.pan.values(), widths = p.width.values(), mids = p.mid.values(), sides = p.side.values()
        const { left, right } = out
        for (let i = 0; i < BLOCK; i++) {
          const l = inL[i] * signL
          const r = inR[i] * signR
          const w = widths[i]
          // at full width and beyond, the middle gives way instead of the sides growing without end
          const m = 0.5 * (l + r) * mids[i] * Math.min(1, 2 - w)
          const s = 0.5 * (l - r) * sides[i] * Math.min(1, w)
          const at = pans[i]
          left[i] = (m + s) * Math.min(1, 1 - at)
          right[i] = (m - s) * Math.min(1, 1 + at)
        }
        if (p.monoBelow.constant && p.monoBelow.value <= 20.01) return
        const corners = p.monoBelow.values()
        lowL.set(left)
        lowR.set(right)
        low.process(lowL, lowR, 'low', corners, sampleRate)
        high.process(left, right, 'high', corners, sampleRate)
        for (let i = 0; i < BLOCK; i++) {
          const m = 0.5 * (lowL[i] + lowR[i])
          left[i] += m
          right[i] += m
        }
      },
    }
  },
})
