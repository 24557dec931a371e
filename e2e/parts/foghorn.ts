import { BLOCK } from '@oleaje/core/contract/block'
import { defineSource } from '@oleaje/core/contract/source'
import { gain, hertz } from '@oleaje/core/units/parameter'

/** A made-up source: a plain sine along the song. */
export const foghorn = defineSource({
  id: 'foghorn',
  name: 'Foghorn',
  tip: 'One low tone',
  begins: { label: 'Foghorn', tip: 'One low tone along the song', track: 'Foghorn' },
  load: { kB: 1, ns: 20 },
  params: {
    frequency: hertz('Frequency', { min: 20, max: 2000, default: 311, tip: 'Pitch of the horn' }),
    level: gain('Level', { min: -72, max: 0, default: -12, tip: 'Level before the chain' }),
  },
  create: ({ sampleRate }) => ({
    reset() {},
    process({ out, song }, p) {
      for (let i = 0; i < BLOCK; i++) {
        const y = song.playing
          ? p.level.value * Math.sin((2 * Math.PI * p.frequency.value * song.frames[i]!) / sampleRate)
          : 0
        out.left[i] = out.right[i] = y
      }
    },
  }),
})
