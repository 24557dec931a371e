import { DrawnShape, type Point, readPoints } from '../dsp/drawn-shape'
import { lfoWave, lfoWaveBlock } from '../dsp/lfo-wave'
import { sineBlock } from '../dsp/sines'
import { BLOCK } from '../contract/block'
import { beats, choice, degrees, hertz, percent, seconds, toggle } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

export const lfoShapes = [
  'sine',
  'triangle',
  'saw up',
  'saw down',
  'square',
  'stepped',
  'smooth',
  'drawn',
] as const
const DRAWN = 7

/** Initial shape of a drawn LFO: a ramp up and a curve down. x and y are 0…1. */
export const firstLfoShape: readonly Point[] = [
  { x: 0, y: 0, bend: 0.4 },
  { x: 0.35, y: 1, bend: -0.5 },
  { x: 1, y: 0, bend: 0 },
]

const TURNED = 0,
  SINCE = 1,
  GATE = 2,
  SLEWED = 3,
  RUNNING = 4,
  STARTED = 5

/**
 * Low-frequency oscillator up to 1 kHz. Running synced, its phase is the song position, so it repeats with
 * the song; running free, it starts at its phase and goes on over loop ends. Restarting, or played once, its
 * phase counts from the trigger. Where a synced length is itself moved, the phase is carried on by adding up,
 * since a moving length has no phase of its own.
 */
export const lfo = defineModulator({
  id: 'lfo',
  name: 'LFO',
  load: { kB: 31, ns: 46 },
  tip: 'A repeating wave, in Hz or note lengths',
  outputs: ['wave'],
  readouts: ['phase'],
  inputs: ['gate'],
  notes: true,
  params: {
    shape: choice('Shape', lfoShapes, 0, 'Waveform; stepped and smooth are random, drawn is your own'),
    sync: toggle('Sync', false, 'Sets the rate as a note length'),
    rate: hertz('Rate', { min: 0.01, max: 1000, default: 0.5, tip: 'Cycles per second' }),
    length: beats('Length', {
      min: 1 / 16,
      max: 64,
      default: 4,
      tip: 'Length of one cycle as a note length',
    }),
    phase: degrees('Phase', { min: 0, max: 1, default: 0, tip: 'Start phase' }),
    width: percent('Width', {
      min: 0.02,
      max: 0.98,
      default: 0.5,
      tip: 'Duty cycle of the square, or rising share of the triangle',
    }),
    goes: choice(
      'Goes',
      ['free', 'retrigger', 'one-shot'],
      0,
      'Runs freely, restarts at each trigger, or plays once per trigger',
    ),
    trigger: choice(
      'Trigger',
      ['play', 'notes', 'gate'],
      0,
      'What triggers it: playback, notes of the track, or another modulator',
    ),
    level: percent('Level', { default: 0.5, tip: 'Threshold of the gate' }),
    delay: seconds('Delay', { min: 0, max: 20, default: 0, tip: 'Delay before it starts' }),
    fade: seconds('Fade-in', { min: 0, max: 20, default: 0, tip: 'Fade-in time' }),
    slew: seconds('Slew', {
      min: 0,
      max: 2,
      default: 0,
      tip: 'Shortest time for a full change; rounds edges',
    }),
  },
  applies: (param, value) => {
    if (param === 'rate') return value('sync') < 0.5
    if (param === 'length') return value('sync') >= 0.5
    if (param === 'width') return value('shape') === 1 || value('shape') === 4
    if (param === 'trigger') return value('goes') !== 0
    return param !== 'level' || (value('goes') !== 0 && value('trigger') === 2)
  },
  draws: (value) =>
    value('shape') === DRAWN
      ? { key: 'shape', length: 1, first: firstLfoShape, snap: 0, grid: 0.125, readout: 'phase' }
      : null,
  // a synced plain wave
  course: (value) =>
    value('sync') >= 0.5 && value('shape') < 5
      ? (beat) => lfoWave(value('shape'), beat / value('length') + value('phase'), value('width'), 0)
      : null,
  uses: (value) => ({ listens: false, inputs: value('goes') > 0 && value('trigger') === 2 }),
  summary: (is) =>
    `LFO · ${is.text('shape')} · ${is.value('sync') >= 0.5 ? is.text('length') : is.text('rate')}`,
  create: ({ sampleRate, seed, fan }) => {
    // in an array, since a number in a closure is boxed again at each change
    const state = new Float64Array(6)
    const readouts = new Float64Array(1)
    const wave = new Float64Array(1)
    const known = new Float64Array(3).fill(NaN)
    const drawn = new DrawnShape(firstLfoShape)
    const fanPhase = fan?.phase ?? 0
    const fanRate = fan?.rate ?? 1
    const triggered = new Uint8Array(BLOCK)
    return {
      readouts,
      reset() {
        state.fill(0)
        state[SLEWED] = NaN
        state[RUNNING] = 1
      },
      take(data) {
        const points = readPoints(data.shape, 1)
        drawn.set(points.length ? points : firstLfoShape)
      },
      process({ outputs, song, inputs, notes }, p) {
        const out = outputs[0]
        const y = out.buffer
        const shape = p.shape.value
        const offsets = p.phase.values()
        const widths = p.width.values()
        const synced = p.sync.value === 1
        const goes = p.goes.value
        const trigger = p.trigger.value
        let turned = state[TURNED],
          since = state[SINCE]
        const waits = goes > 0 && trigger > 0
        if (waits)
          findTriggers(
            triggered,
            trigger === 1 ? notes : null,
            trigger === 2 ? (inputs[0] ?? null) : null,
            p.level.value,
            state,
          )
        if (!waits) {
          // free running again, whatever it waited for before
          state[STARTED] = 0
          state[RUNNING] = 1
        } else if (state[STARTED] === 0) {
          state[STARTED] = 1
          state[RUNNING] = 0
        }
        let running = state[RUNNING] === 1
        const bySong = synced && goes === 0 && p.length.constant && fanRate === 1
        const perBeat = synced && p.length.constant ? 1 / p.length.value : 0
        const lengths = synced && !p.length.constant ? p.length.buffer : null
        const rates = !synced && !p.rate.constant ? p.rate.buffer : null
        const still = synced ? perBeat * song.beatsPerFrame * fanRate : (p.rate.value / sampleRate) * fanRate
        // most of the time it is a plain sine of one rate
        const plain =
          shape === 0 && goes === 0 && !bySong && !lengths && !rates && p.phase.constant && still < 1
        if (plain) {
          wave[0] = turned + offsets[0] + fanPhase
          sineBlock(y, wave, still)
          for (let i = 0; i < BLOCK; i++) y[i] = 0.5 + 0.5 * y[i]
          turned += BLOCK * still
        }
        for (let i = plain ? BLOCK : 0; i < BLOCK; i++) {
          if (waits && triggered[i] === 1) {
            turned = 0
            since = 0
            running = true
          }
          if (bySong) turned = song.beats[i] * perBeat
          else if (goes === 2 && turned > 1) turned = 1
          const last = goes === 2 && turned >= 1
          y[i] = (last ? 0.9999999 : turned) + offsets[i] + fanPhase
          if (running && !bySong)
            turned += lengths
              ? (song.beatsPerFrame / lengths[i]) * fanRate
              : rates
                ? (rates[i] / sampleRate) * fanRate
                : still
        }
        if (shape === DRAWN) {
          for (let i = 0; i < BLOCK; i++) y[i] -= Math.floor(y[i])
          drawn.read(y)
        } else if (!plain) lfoWaveBlock(shape, y, widths, seed, known)
        state[TURNED] = turned
        state[RUNNING] = running ? 1 : 0
        readouts[0] = turned + offsets[BLOCK - 1] - Math.floor(turned + offsets[BLOCK - 1])
        const delay = p.delay.value * sampleRate
        const fade = p.fade.value * sampleRate
        if (delay > 0 || fade > 0) {
          const start = offsets[0] + fanPhase
          const rest =
            shape === DRAWN ? drawn.at(start - Math.floor(start)) : lfoWave(shape, start, widths[0], seed)
          for (let i = 0; i < BLOCK; i++) {
            if (waits && triggered[i] === 1) since = 0
            const w = since < delay ? 0 : since >= delay + fade ? 1 : (since - delay) / fade
            y[i] = rest + (y[i] - rest) * w
            since++
          }
        }
        state[SINCE] = since
        if (p.slew.value > 0.0001) {
          const most = 1 / (p.slew.value * sampleRate)
          let s = state[SLEWED] === state[SLEWED] ? state[SLEWED] : y[0]
          for (let i = 0; i < BLOCK; i++) {
            const d = y[i] - s
            s += d > most ? most : d < -most ? -most : d
            y[i] = s
          }
          state[SLEWED] = s
        } else state[SLEWED] = NaN
        out.move()
      },
    }
  },
})

/** Marks the frames at which a note begins, or a gate rises through a level. */
function findTriggers(
  marks: Uint8Array,
  notes: { readonly count: number; readonly frame: Int32Array; readonly begins: Uint8Array } | null,
  gate: { values(): Float64Array } | null,
  level: number,
  state: Float64Array,
): void {
  marks.fill(0)
  if (notes) for (let k = 0; k < notes.count; k++) if (notes.begins[k] === 1) marks[notes.frame[k]] = 1
  if (!gate) return
  const x = gate.values()
  let before = state[GATE]
  for (let i = 0; i < BLOCK; i++) {
    const now = x[i] >= level ? 1 : 0
    if (now === 1 && before === 0) marks[i] = 1
    before = now
  }
  state[GATE] = before
}
