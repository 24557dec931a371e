import { BLOCK } from '../contract/block'
import { boost, choice } from '../units/parameter'
import { defineSource } from '../contract/source'
import { FRACTION } from '../dsp/fraction'

/** Sample from which on a converter is taken to be at its end. */
const FULL = 0.9999
/** How long the lamp stays lit, and the peak stays. */
const HELD_SECONDS = 2

/**
 * The live input: microphone, line, or the simulated performance. Silent in a render, unless it was recorded.
 */
export const inputSource = defineSource({
  id: 'input',
  name: 'Live input',
  tip: 'Plays a live input, or the simulated player',
  live: true,
  device: true,
  begins: {
    label: 'Live input',
    tip: 'Adds a track for a live input or the simulated player',
    track: 'Line in',
  },
  params: {
    coarse: choice(
      'Coarse gain',
      ['0 dB', '+20 dB', '+40 dB', '+60 dB'],
      0,
      'Coarse input gain in steps of 20 dB',
    ),
    fine: boost('Fine gain', { min: -24, max: 24, default: 0, tip: 'Input gain' }),
    sides: choice('Sides', ['left to both', 'stereo', 'right to both'], 0, 'Input channels'),
  },
  unseen: 'live input',
  summary: (is) => is.device || 'live input',
  readouts: ['clip', 'peak'],
  load: { kB: 16, ns: 20 },
  create: ({ sampleRate }) => {
    // how long since the device itself was at its end, in samples, and the highest peak after the gain, which
    // is held for a while
    const readouts = new Float64Array(2)
    let since = 1e9
    let held = FRACTION
    let heldFor = 0
    return {
      readouts,
      reset() {
        readouts.fill(0)
        since = 1e9
        held = 0
        heldFor = 0
      },
      process({ out, input }, p) {
        const coarse =
          p.coarse.value === 0 ? 1 : p.coarse.value === 1 ? 10 : p.coarse.value === 2 ? 100 : 1000
        const g = p.fine.values()
        const left = p.sides.value === 2 ? input.right : input.left
        const right = p.sides.value === 0 ? input.left : input.right
        let peak = 0
        let full = false
        for (let i = 0; i < BLOCK; i++) {
          const l = left[i] * g[i] * coarse
          const r = right[i] * g[i] * coarse
          out.left[i] = l
          out.right[i] = r
          const most = Math.max(l < 0 ? -l : l, r < 0 ? -r : r)
          if (most > peak) peak = most
          if (most >= 1 || left[i] >= FULL || left[i] <= -FULL || right[i] >= FULL || right[i] <= -FULL)
            full = true
        }
        since = full ? 0 : Math.min(1e9, since + BLOCK)
        heldFor += BLOCK
        if (peak >= held || heldFor > HELD_SECONDS * sampleRate) {
          held = peak
          heldFor = 0
        }
        readouts[0] = since < HELD_SECONDS * sampleRate ? 1 : 0
        readouts[1] = held
      },
    }
  },
})
