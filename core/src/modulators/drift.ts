import { exp2 } from '../dsp/math'
import { mix32, randomAt } from '../dsp/random'
import { BLOCK } from '../contract/block'
import { choice, hertz, percent, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

export const driftKinds = ['smooth', 'walk', 'jumps'] as const

const smoothstep = (x: number): number => x * x * (3 - 2 * x)

/** Random values of whole places joined smoothly. */
function valueNoise(seed: number, x: number): number {
  const cell = Math.floor(x)
  const a = randomAt(seed, cell)
  return a + (randomAt(seed, cell + 1) - a) * smoothstep(x - cell)
}

/** Three layers whose speeds have no common measure, so that the sum never comes round to itself. */
const LAYERS = [
  { share: 0.55, speed: 1, seed: 0 },
  { share: 0.3, speed: 1.618034, seed: 0x51ed27 },
  { share: 0.15, speed: 2.414214, seed: 0x2f6b91 },
]

/** Its value after so many cycles, 0…1. */
export function smoothDrift(seed: number, turned: number): number {
  let sum = 0
  for (const layer of LAYERS) sum += layer.share * valueNoise(seed ^ layer.seed, turned * layer.speed)
  // values between random places crowd round the middle; this spreads them over the whole range again
  const y = 0.5 + (sum - 0.5) * 1.5
  return y < 0 ? 0 : y > 1 ? 1 : y
}

/**
 * {@link smoothDrift} of a block of places, in place; what lies round each layer's cell is worked out once
 * while it stays there.
 */
class SmoothDrift {
  // cell, its value and that of the next, for each layer
  private readonly known = new Float64Array(3 * LAYERS.length).fill(NaN)
  private readonly turns = new Float64Array(BLOCK)

  constructor(private readonly seed: number) {}

  read(y: Float64Array): void {
    this.turns.set(y)
    y.fill(0)
    for (let k = 0; k < LAYERS.length; k++) this.add(k, y)
    for (let i = 0; i < BLOCK; i++) {
      const x = 0.5 + (y[i] - 0.5) * 1.5
      y[i] = x < 0 ? 0 : x > 1 ? 1 : x
    }
  }

  private add(layer: number, y: Float64Array): void {
    const { known, turns } = this
    const { share, speed, seed } = LAYERS[layer]
    let cell = known[3 * layer],
      a = known[3 * layer + 1],
      b = known[3 * layer + 2]
    for (let i = 0; i < BLOCK; i++) {
      const x = turns[i] * speed
      const at = Math.floor(x)
      if (at !== cell) {
        cell = at
        a = randomAt(this.seed ^ seed, at)
        b = randomAt(this.seed ^ seed, at + 1)
      }
      y[i] += share * (a + (b - a) * smoothstep(x - at))
    }
    known[3 * layer] = cell
    known[3 * layer + 1] = a
    known[3 * layer + 2] = b
  }
}

/**
 * Organic random that never repeats to the ear, all from its seed. Smooth: layers of value noise (Perlin, "An
 * image synthesizer", 1985) of unrelated speeds. Walk: steps of random size and way that turn back at the
 * ends. Jumps: rest in the middle, now and then a sudden step away that returns. Its own speed can drift by
 * up to two octaves each way.
 */
export const drift = defineModulator({
  id: 'drift',
  name: 'Drift',
  load: { kB: 19, ns: 77 },
  tip: 'Random motion: smooth, stepped, or still with sudden jumps',
  outputs: ['drift'],
  readouts: ['turned'],
  params: {
    kind: choice('Kind', driftKinds, 0, 'Smooth noise, a random walk, or sudden jumps'),
    speed: hertz('Speed', {
      min: 0.005,
      max: 50,
      default: 0.3,
      tip: 'Changes per second; for jumps, how often one may occur',
    }),
    roam: percent('Roam', { default: 0.3, tip: 'Random variation of the speed, up to two octaves each way' }),
    size: percent('Size', { default: 0.6, tip: 'Size of steps and jumps' }),
    density: percent('Density', { default: 0.35, tip: 'Probability of a jump' }),
    back: seconds('Return', {
      min: 0,
      max: 10,
      default: 0.25,
      tip: 'Time in which a jump returns',
    }),
  },
  applies: (param, value) =>
    param === 'density' || param === 'back' ? value('kind') === 2 : param !== 'size' || value('kind') !== 0,
  summary: (is) => `drift · ${is.text('kind')} · ${is.text('speed')}`,
  create: ({ sampleRate, seed, fan }) => {
    const fanPhase = (fan?.phase ?? 0) * 7.31
    const fanRate = fan?.rate ?? 1
    // turned; seconds run; walk: cell, from, to; jump: cell, height
    const state = new Float64Array(7)
    const readouts = new Float64Array(1)
    const smooth = new SmoothDrift(seed)
    const random = (n: number): number => randomAt(mix32(seed ^ 0x77f1), n)
    return {
      readouts,
      reset() {
        state.fill(0)
        state[0] = fanPhase
        state[2] = state[5] = -1
        state[3] = state[4] = 0.5
      },
      process({ outputs }, p) {
        const out = outputs[0]
        const y = out.buffer
        const kind = p.kind.value
        let turned = state[0],
          time = state[1],
          cell = state[2],
          from = state[3],
          to = state[4],
          jumpCell = state[5],
          height = state[6]
        const speeds = p.speed.values()
        const sizes = p.size.values()
        const roam = p.roam.value
        const density = p.density.value
        const decay = p.back.value > 0 ? exp2(-1.4426950408889634 / (0.4 * p.back.value * sampleRate)) : 0
        // the wandering of the speed is slow: once a block is fine enough
        const wander = roam > 0 ? exp2(4 * roam * (smoothDrift(seed ^ 0x1b873593, time * 0.37) - 0.5)) : 1
        const scale = (wander * fanRate) / sampleRate
        for (let i = 0; i < BLOCK; i++) {
          turned += speeds[i] * scale
          if (kind === 0) y[i] = turned
          else if (kind === 1) {
            const at = Math.floor(turned * 2)
            if (at !== cell) {
              cell = at
              from = to
              let next = from + (random(at) * 2 - 1) * sizes[i]
              if (next > 1) next = 2 - next
              if (next < 0) next = -next
              to = next
            }
            y[i] = from + (to - from) * smoothstep(turned * 2 - at)
          } else {
            const at = Math.floor(turned * 4)
            if (at !== jumpCell) {
              jumpCell = at
              if (random(2 * at) < density)
                height =
                  (random(2 * at + 1) < 0.5 ? -0.5 : 0.5) * sizes[i] * (0.4 + 0.6 * random(3 * at + 0x5bd1))
            }
            height *= decay
            y[i] = 0.5 + height
          }
        }
        if (kind === 0) smooth.read(y)
        time += (BLOCK * wander) / sampleRate
        state[0] = turned
        state[1] = time
        state[2] = cell
        state[3] = from
        state[4] = to
        state[5] = jumpCell
        state[6] = height < 1e-12 && height > -1e-12 ? 0 : height
        readouts[0] = turned
        out.move()
      },
    }
  },
})
