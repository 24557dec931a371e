import { DrawnShape, type Point, readPoints } from '../dsp/drawn-shape'
import { BLOCK } from '../contract/block'
import { beats, choice, degrees } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

/** Longest curve in quarter notes. */
export const LONGEST_CURVE = 1024

/** Points of a new curve in beats: a rise over a bar and a fall over the rest. */
export const firstCurve: readonly Point[] = [
  { x: 0, y: 0, bend: 0 },
  { x: 4, y: 1, bend: 0 },
  { x: 16, y: 0, bend: 0 },
]

/**
 * A drawn curve that repeats after its own length, whatever the loop's: going on over the loop's end, so that
 * three and a half bars shift against four; or tied to the song position.
 */
export const curve = defineModulator({
  id: 'curve',
  name: 'Curve',
  load: { kB: 12, ns: 36 },
  tip: 'A curve that you draw, with its own length',
  outputs: ['curve'],
  readouts: ['beat'],
  params: {
    length: beats('Length', {
      min: 1 / 16,
      max: LONGEST_CURVE,
      default: 16,
      tip: 'Length in beats after which it repeats',
    }),
    follows: choice(
      'Follows',
      ['its own count', 'song position'],
      0,
      'Follows the song and jumps with its loop, or runs on',
    ),
    phase: degrees('Phase', { min: 0, max: 1, default: 0, tip: 'Start position in the curve' }),
  },
  isLane: true,
  draws: (value) => ({
    key: 'points',
    length: value('length'),
    first: firstCurve,
    snap: 0.25,
    grid: 1,
    readout: 'beat',
  }),
  summary: (is) => `curve · ${is.text('length')}`,
  create: ({ fan }) => {
    const shape = new DrawnShape(firstCurve)
    const readouts = new Float64Array(1)
    const fanPhase = fan?.phase ?? 0
    const fanRate = fan?.rate ?? 1
    return {
      readouts,
      reset() {},
      take(data) {
        const points = readPoints(data.points, LONGEST_CURVE)
        shape.set(points.length ? points : firstCurve)
      },
      process({ outputs, song }, p) {
        const y = outputs[0].buffer
        const position = p.follows.value === 1 ? song.beats : song.run
        const lengths = p.length.values()
        const phases = p.phase.values()
        for (let i = 0; i < BLOCK; i++) {
          const length = lengths[i]
          const at = position[i] * fanRate + (phases[i] + fanPhase) * length
          y[i] = at - Math.floor(at / length) * length
        }
        readouts[0] = y[BLOCK - 1]
        shape.read(y)
        outputs[0].move()
      },
    }
  },
})
