import { STEP_HALF, STEP_PHASES, STEP_TAPS, stepTables } from './band-limited-step'
import { sinCycles } from './math'

export const plainWaves = ['sine', 'triangle', 'saw', 'pulse'] as const

/**
 * By distance from a step, 256 places a sample: what a band-limited step has more than a hard one, the area
 * under that, and an impulse.
 */
interface Edges {
  readonly step: Float64Array
  readonly ramp: Float64Array
  readonly impulse: Float64Array
}
let made: Edges | null = null

/** The tables of edges: made where there is time, never in a block. */
export function preparePlainWaves(): Edges {
  if (made) return made
  const { stepRows, impulseRows } = stepTables()
  const points = STEP_TAPS * STEP_PHASES
  const step = new Float64Array(points + 1)
  const impulse = new Float64Array(points + 1)
  for (let i = 0; i < points; i++) {
    const row = (i % STEP_PHASES) * STEP_TAPS + Math.floor(i / STEP_PHASES)
    step[i] = stepRows[row]
    impulse[i] = impulseRows[row]
  }
  // odd about its middle, where it jumps from ½ to −½: the area is worked out from either end
  const ramp = new Float64Array(points + 1)
  for (let i = 1; i <= points / 2; i++) {
    const upper = i === points / 2 ? 0.5 : step[i]
    ramp[i] = ramp[points - i] = ramp[i - 1] + (step[i - 1] + upper) / (2 * STEP_PHASES)
  }
  return (made = { step, ramp, impulse })
}

const MIDDLE = STEP_HALF * STEP_PHASES

/** @param jump by how much the table falls in its middle */
function readEdge(table: Float64Array, distance: number, jump: number): number {
  const at = (distance + STEP_HALF) * STEP_PHASES
  const i = Math.floor(at)
  if (i < 0 || i >= STEP_TAPS * STEP_PHASES) return 0
  // up to its edge the step has not happened yet
  const upper = table[i + 1] + (i === MIDDLE - 1 ? jump : 0)
  return table[i] + (at - i) * (upper - table[i])
}

/**
 * One sample of a wave at a phase of 0…1, of which `step` cycles pass in a sample: harmonics up to 20 kHz,
 * and what would alias 100 dB below (edges of linear phase in place of hard ones; Brandt, "Hard sync without
 * aliasing", ICMC 2001). Sine, triangle and saw begin at 0 and rise; the pulse begins high.
 * @param width high part of the pulse
 */
export function plainWave(wave: number, phase: number, step: number, width: number): number {
  if (wave === 0) return sinCycles(phase)
  const edges = made ?? preparePlainWaves()
  if (wave === 1) {
    const x = phase < 0.25 ? phase + 0.75 : phase - 0.25
    const y = x < 0.5 ? 1 - 4 * x : 4 * x - 3
    // corners down at ¼, up at ¾: slopes change by 8 a cycle
    return (
      y + 8 * step * (around(edges.ramp, 0, phase - 0.75, step) - around(edges.ramp, 0, phase - 0.25, step))
    )
  }
  if (wave === 2) return 2 * (phase < 0.5 ? phase : phase - 1) - 2 * around(edges.step, 1, phase - 0.5, step)
  const y = phase < width ? 1 : -1
  return (
    y -
    (2 * width - 1) +
    2 * (around(edges.step, 1, phase, step) - around(edges.step, 1, phase - width, step))
  )
}

/** One sample of a train of band-limited impulses of height 1, one at each phase of 0. */
export const impulseTrain = (phase: number, step: number): number =>
  around((made ?? preparePlainWaves()).impulse, 0, phase, step)

/**
 * Sum over all edges that come once a cycle and are near enough to be heard in this sample, those to come
 * too.
 */
function around(table: Float64Array, jump: number, passed: number, step: number): number {
  const reach = STEP_HALF * step
  let sum = 0
  // from the one furthest ahead to the oldest
  for (let d = passed - Math.ceil(passed + reach) + 1; d < reach; d += 1)
    if (d > -reach) sum += readEdge(table, d / step, jump)
  return sum
}
