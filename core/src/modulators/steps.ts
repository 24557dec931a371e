import { randomAt } from '../dsp/random'
import { BLOCK } from '../contract/block'
import { beats, choice, number, percent } from '../units/parameter'
import { inScale, noteNames, scales } from '../units/tuning'
import { defineModulator } from '../contract/modulator'

export const stepDirections = ['forward', 'back', 'to and fro', 'random'] as const

/** Which of `count` steps sounds at the n-th place of the walk. */
export function stepValueAt(n: number, count: number, direction: number, seed: number): number {
  const round = Math.floor(n / count)
  const k = n - round * count
  if (direction === 0) return k
  if (direction === 1) return count - 1 - k
  if (direction === 3) return Math.min(count - 1, Math.floor(randomAt(seed ^ 0x3c6ef372, n) * count))
  const turn = Math.max(1, 2 * count - 2)
  const m = n - Math.floor(n / turn) * turn
  return m < count ? m : turn - m
}

/**
 * A row of up to 32 levels walked through in note lengths, each with its own glide and chance. A step that
 * its chance leaves out keeps the level of the last one played. With a scale, levels stand on its notes over
 * `span` semitones.
 */
export const steps = defineModulator({
  id: 'steps',
  name: 'Steps',
  load: { kB: 73, ns: 5 },
  tip: 'A row of levels in any note length, with glide and probability',
  outputs: ['level', 'gate'],
  readouts: ['step'],
  params: {
    length: beats('Length', {
      min: 1 / 16,
      max: 16,
      default: 0.25,
      tip: 'Length of one step; odd lengths such as 7/16 are possible',
    }),
    direction: choice('Direction', stepDirections, 0, 'Direction through the row'),
    follows: choice(
      'Follows',
      ['its own count', 'song position'],
      0,
      'Follows the song and jumps with its loop, or runs on, so that odd rows shift',
    ),
    scale: choice(
      'Scale',
      ['free', ...scales.map((s) => s.name)],
      0,
      'Quantises the levels to a scale over the span',
    ),
    root: choice('Root', [...noteNames], 2, 'Root of the scale'),
    span: number('Span', {
      min: 1,
      max: 60,
      default: 24,
      tip: 'Semitones between minimum and maximum with a scale',
    }),
    open: percent('Open', {
      min: 0.02,
      max: 1,
      default: 0.5,
      tip: 'Share of a step during which the gate is open',
    }),
  },
  lanes: {
    steps: {
      name: 'Steps',
      item: 'step',
      least: 1,
      most: 32,
      params: {
        level: percent('Level', { default: 0.5, tip: 'Level of the step' }),
        glide: percent('Glide', { default: 0, tip: 'Share of the step used to glide to it' }),
        chance: percent('Chance', { default: 1, tip: 'Probability that the step plays' }),
      },
      initial: [0.2, 0.75, 0.4, 1, 0.1, 0.6, 0.85, 0.3].map((level) => ({ level })),
    },
  },
  applies: (param, value) => (param !== 'root' && param !== 'span') || value('scale') !== 0,
  summary: (is) => `steps · ${is.count('steps')} × ${is.text('length')}`,
  create: ({ seed, fan }) => {
    const state = new Float64Array([NaN, 0, 0])
    const readouts = new Float64Array(1)
    const fanPhase = fan?.phase ?? 0
    const fanRate = fan?.rate ?? 1
    return {
      readouts,
      reset() {
        state[0] = NaN
        state[1] = state[2] = 0
      },
      process({ outputs, song, lanes }, p) {
        const row = lanes.steps
        const count = row.length
        const y = outputs[0].buffer
        const gate = outputs[1].buffer
        const position = p.follows.value === 1 ? song.beats : song.run
        const direction = p.direction.value
        const scale = p.scale.value
        const root = p.root.value
        const span = p.span.value
        const lengths = p.length.values()
        let n = state[0],
          level = state[1],
          before = state[2]
        let x = 0
        for (let i = 0; i < BLOCK; i++) {
          const at = (position[i] / lengths[i]) * fanRate + fanPhase * count
          const now = Math.floor(at)
          x = at - now
          if (now !== n) {
            before = n === n ? level : -1
            n = now
            const step = row[stepValueAt(now, count, direction, seed)]
            // the first is always played: there is nothing to keep
            if (before < 0 || step.chance.value >= 1 || randomAt(seed, now) < step.chance.value)
              level = step.level.value
            if (before < 0) before = level
          }
          const step = row[stepValueAt(n, count, direction, seed)]
          const glide = step.glide.value
          let v = glide > 0 && x < glide ? before + (level - before) * (x / glide) : level
          if (scale > 0) {
            // the root itself is the lowest place, whatever its octave
            v = (inScale(root + v * span, root, scale - 1) - root) / span
            if (v > 1) v = 1
          }
          y[i] = v
          gate[i] = x < p.open.value ? 1 : 0
        }
        state[0] = n
        state[1] = level
        state[2] = before
        readouts[0] = stepValueAt(n, count, direction, seed)
        outputs[0].move()
        outputs[1].move()
      },
    }
  },
})
