import { BLOCK } from '../contract/block'
import { gain, percent } from '../units/parameter'
import { defineSource } from '../contract/source'

/**
 * Another track, before or after its chain, as a source of its own: the same sound through two chains, or one
 * chain after the other.
 */
export const trackSource = defineSource({
  id: 'track',
  name: 'Another track',
  tip: 'Plays another track, before or after its chain',
  listens: true,
  begins: {
    label: 'Another track',
    tip: 'Plays another track, before or after its chain',
    track: 'Listening',
  },
  live: true,
  load: { kB: 24, ns: 20 },
  params: {
    level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
    width: percent('Width', { min: 0, max: 1, default: 1, tip: 'Stereo width, from mono to full' }),
  },
  unseen: 'output of another track',
  summary: (is) => (is.listens ? `from ${is.listens}` : 'from no track yet'),
  create: () => ({
    reset() {},
    process({ out, side }, p) {
      const levels = p.level.values()
      const widths = p.width.values()
      for (let i = 0; i < BLOCK; i++) {
        const l = side.left[i] * levels[i]
        const r = side.right[i] * levels[i]
        const middle = 0.5 * (l + r)
        const w = widths[i]
        out.left[i] = w === 1 ? l : middle + (l - middle) * w
        out.right[i] = w === 1 ? r : middle + (r - middle) * w
      }
    },
  }),
})
