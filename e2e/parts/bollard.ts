import { BLOCK } from '@oleaje/core/contract/block'
import { defineEffect } from '@oleaje/core/contract/effect'
import { percent } from '@oleaje/core/units/parameter'

/** A made-up effect: keeps a share of the left side, and a third of the right one. */
export const bollard = defineEffect({
  id: 'bollard',
  name: 'Bollard',
  group: 'level',
  load: { kB: 1, ns: 5 },
  tip: 'Holds the left side back',
  params: { share: percent('Share', { default: 0.5, tip: 'How much of the left side is left' }) },
  create: () => ({
    reset() {},
    process({ in: input, out }, p) {
      const shares = p.share.values()
      for (let i = 0; i < BLOCK; i++) {
        out.left[i] = shares[i]! * input.left[i]!
        out.right[i] = input.right[i]! / 3
      }
    },
  }),
})
