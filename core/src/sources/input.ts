import { BLOCK } from '../contract/block'
import { boost, choice } from '../units/parameter'
import { defineSource } from '../contract/source'

/** The live input: microphone, line, or the simulated performance. Silent in a render, unless it was recorded. */
export const inputSource = defineSource({
  id: 'input',
  name: 'Live input',
  tip: 'What comes in on a cable, or the simulated line',
  live: true,
  params: {
    coarse: choice('Coarse gain', ['0 dB', '+20 dB', '+40 dB'], 0, 'Input gain in steps of 20 dB'),
    fine: boost('Fine gain', { min: -24, max: 24, default: 0, tip: 'Input gain' }),
    sides: choice('Sides', ['mono to both', 'stereo'], 0, 'Left input to both sides, or both as they are'),
  },
  unseen: 'what comes in, as it comes',
  summary: (is) => is.device || 'live input',
  create: () => ({
    reset() {},
    process({ out, input }, p) {
      const coarse = p.coarse.value === 0 ? 1 : p.coarse.value === 1 ? 10 : 100
      const g = p.fine.values()
      const right = p.sides.value === 0 ? input.left : input.right
      for (let i = 0; i < BLOCK; i++) {
        out.left[i] = input.left[i] * g[i] * coarse
        out.right[i] = right[i] * g[i] * coarse
      }
    },
  }),
})
