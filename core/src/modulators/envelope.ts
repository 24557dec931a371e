import { bendBlock } from '../dsp/drawn-shape'
import { Onset } from '../dsp/onset'
import { BLOCK, type NoteBlock, type ParamBlocks, type SongBlock, type StereoBlock } from '../contract/block'
import { beats, choice, number, percent, seconds, toggle } from '../units/parameter'
import { type ModulatorBlock, type ModulatorProcessor, defineModulator } from '../contract/modulator'

export const envelopeTriggers = ['notes', 'gate', 'play', 'hits'] as const
const BY_NOTES = 0,
  BY_GATE = 1,
  BY_SONG = 2,
  BY_HITS = 3
const IDLE = 0,
  ATTACK = 1,
  HOLD = 2,
  DECAY = 3,
  SUSTAIN = 4,
  RELEASE = 5
// places of its state: frames in the stage, level now and at the start of the stage, peak by velocity
const STAGE = 0,
  IN_STAGE = 1,
  LEVEL = 2,
  FROM = 3,
  PEAK = 4

const params = {
  trigger: choice('Trigger', envelopeTriggers, 3, 'What triggers the envelope'),
  gate: toggle('Gate', false, 'Holds the envelope open. Press the button, or link a key or a modulator', {
    momentary: true,
  }),
  attack: seconds('Attack', { min: 0, max: 10, default: 0.01, tip: 'Time to the top' }),
  hold: seconds('Hold', { min: 0, max: 10, default: 0, tip: 'Time at the top' }),
  decay: seconds('Decay', { min: 0, max: 20, default: 0.3, tip: 'Time to the sustain level' }),
  sustain: percent('Sustain', { default: 0.4, tip: 'Level while the note or gate is held' }),
  release: seconds('Release', { min: 0, max: 20, default: 0.4, tip: 'Time to zero' }),
  rise: number('Attack curve', { min: -1, max: 1, default: 0, tip: 'Below 0 early, above 0 late' }),
  fall: number('Decay curve', { min: -1, max: 1, default: -0.4, tip: 'Below 0 early, above 0 late' }),
  velocity: percent('Velocity', { default: 0, tip: 'How much soft notes or hits lower it' }),
  every: beats('Every', { min: 1 / 16, max: 64, default: 1, tip: 'Beats between triggers by the song' }),
  level: percent('Level', {
    default: 0.3,
    tip: 'Threshold of the gate, and lowest level of a hit',
  }),
}

type Params = ParamBlocks<typeof params>

/**
 * Attack, hold, decay, sustain, release with bent ways, started by notes, by a gate, by the song every so
 * many beats, or by hits in a track's sound. From the song and from hits, which have no end, the release
 * follows on the decay. A new start goes up from where it is, so nothing jumps.
 */
export const envelope = defineModulator({
  id: 'envelope',
  name: 'Envelope',
  restsLow: true,
  load: { kB: 32, ns: 26 },
  tip: 'Rises and falls when triggered by notes, a gate, the song or hits',
  outputs: ['envelope'],
  readouts: ['stage', 'way'],
  inputs: ['gate'],
  listens: true,
  notes: true,
  params,
  applies: (param, value) => {
    const trigger = value('trigger')
    if (param === 'every') return trigger === 2
    if (param === 'gate') return trigger === 1
    if (param === 'level') return trigger === 1 || trigger === 3
    return param !== 'velocity' || trigger === 0 || trigger === 3
  },
  uses: (value) => ({ listens: value('trigger') === 3, inputs: value('trigger') === 1 }),
  summary: (is) => `envelope · by ${is.text('trigger')}`,
  create: ({ sampleRate }) => new EnvelopeProcessor(sampleRate),
})

class EnvelopeProcessor implements ModulatorProcessor<typeof params> {
  readonly readouts = new Float64Array(2)
  private readonly starts: Starts
  private readonly state = new Float64Array(5)
  /** Lengths of the stages in frames, by stage; those without end are 0 here. */
  private readonly lengths = new Float64Array(6)
  /** Bends of the attack, and of decay and release. */
  private readonly bends = new Float64Array(2)

  constructor(private readonly sampleRate: number) {
    this.starts = new Starts(sampleRate)
  }

  reset(): void {
    this.state.fill(0)
    this.starts.reset()
  }

  process(io: ModulatorBlock, p: Params): void {
    const { state, starts, lengths, bends, sampleRate } = this
    lengths[ATTACK] = p.attack.value * sampleRate
    lengths[HOLD] = p.hold.value * sampleRate
    lengths[DECAY] = p.decay.value * sampleRate
    lengths[RELEASE] = p.release.value * sampleRate
    bends[0] = p.rise.value
    bends[1] = p.fall.value
    starts.find(io, p, state[STAGE] === RELEASE)
    const output = io.outputs[0]
    const { marks, ends } = starts
    const lasting = p.trigger.value === BY_NOTES || p.trigger.value === BY_GATE
    const sustains = p.sustain.values()
    for (let i = 0; i < BLOCK;) {
      if (marks[i] === 1) {
        this.enter(ATTACK)
        state[PEAK] = 1 - p.velocity.value * (1 - starts.strengths[i])
      } else if (ends[i] === 1 && state[STAGE] !== IDLE) this.enter(RELEASE)
      // as far as this stage goes
      const stage = state[STAGE]
      const whole = this.lengthOf(stage)
      const last = Math.min(BLOCK, i + Math.floor(whole) + 1 - state[IN_STAGE])
      let end = i + 1
      while (end < last && marks[end] === 0 && ends[end] === 0) end++
      this.write(output.buffer, sustains, i, end)
      state[LEVEL] = output.buffer[end - 1]
      if (whole < Infinity) state[IN_STAGE] += end - i
      i = end
      if (state[IN_STAGE] > whole) this.goOn(lasting)
    }
    readStage(this.readouts, state, lengths)
    output.move()
  }

  private enter(stage: number): void {
    const { state } = this
    state[STAGE] = stage
    state[IN_STAGE] = 0
    state[FROM] = state[LEVEL]
  }

  /** From a stage that has ended to the next. */
  private goOn(lasting: boolean): void {
    const { state } = this
    const stage = state[STAGE]
    state[IN_STAGE] = 0
    if (stage === ATTACK || stage === HOLD) state[STAGE] = stage + 1
    else if (stage === DECAY) {
      state[STAGE] = lasting ? SUSTAIN : RELEASE
      state[FROM] = state[LEVEL]
    } else {
      state[STAGE] = IDLE
      state[LEVEL] = 0
    }
  }

  private lengthOf(stage: number): number {
    return stage === IDLE || stage === SUSTAIN ? Infinity : this.lengths[stage]
  }

  /** Frames `i` to `end` of one stage. */
  private write(y: Float64Array, sustains: Float64Array, i: number, end: number): void {
    const { state, bends } = this
    const stage = state[STAGE]
    const from = state[FROM]
    const peak = state[PEAK]
    if (stage === ATTACK || stage === DECAY || stage === RELEASE) {
      const whole = this.lengths[stage]
      const at = state[IN_STAGE]
      for (let k = i; k < end; k++) y[k] = whole > 0 ? Math.min(1, (at + k - i) / whole) : 1
      bendBlock(y, stage === ATTACK ? bends[0] : bends[1], i, end)
    }
    if (stage === ATTACK) for (let k = i; k < end; k++) y[k] = from + (peak - from) * y[k]
    else if (stage === HOLD) y.fill(peak, i, end)
    else if (stage === DECAY) for (let k = i; k < end; k++) y[k] = peak + (peak * sustains[k] - peak) * y[k]
    else if (stage === SUSTAIN) for (let k = i; k < end; k++) y[k] = peak * sustains[k]
    else if (stage === RELEASE) for (let k = i; k < end; k++) y[k] = from * (1 - y[k])
    else y.fill(state[LEVEL], i, end)
  }
}

/** The stage, and how far it has gone. */
function readStage(readouts: Float64Array, state: Float64Array, lengths: Float64Array): void {
  const whole = lengths[state[STAGE]]
  readouts[0] = state[STAGE]
  readouts[1] = whole > 0 ? state[IN_STAGE] / whole : 0
}

/** Finds where the envelope begins and ends in a block: by notes, a gate, the song or hits. */
class Starts {
  readonly marks = new Uint8Array(BLOCK)
  readonly ends = new Uint8Array(BLOCK)
  readonly strengths = new Float64Array(BLOCK)
  private readonly levels = new Float64Array(BLOCK)
  private readonly onset: Onset
  private held = 0
  private gate = 0
  /** The last trigger, and how often the song has started it; −1 for none. */
  private trigger = -1
  private count = -1

  constructor(sampleRate: number) {
    this.onset = new Onset(sampleRate)
  }

  reset(): void {
    this.held = this.gate = 0
    this.trigger = this.count = -1
    this.onset.reset()
  }

  find({ song, inputs, notes, side }: ModulatorBlock, p: Params, isReleased: boolean): void {
    const { marks, ends, strengths } = this
    const trigger = p.trigger.value
    marks.fill(0)
    ends.fill(0)
    strengths.fill(1)
    this.byNotes(notes, trigger === BY_NOTES)
    // the former trigger no longer holds the envelope open
    const lasted = this.trigger === BY_NOTES || this.trigger === BY_GATE
    if (lasted && trigger !== this.trigger && !(trigger === BY_NOTES && this.held > 0) && !isReleased)
      ends[0] = 1
    this.trigger = trigger
    if (trigger === BY_GATE) {
      this.byGate(inputs[0]?.values() ?? null, p.level.value, p.gate.value)
    } else if (trigger === BY_SONG) this.bySong(song, p.every.value)
    else if (trigger === BY_HITS) this.byHits(side, p.level.value)
  }

  /** Notes that are held are counted whatever starts it, so that none is missed when that is changed. */
  private byNotes(notes: NoteBlock, starts: boolean): void {
    for (let k = 0; k < notes.count; k++) {
      const at = notes.frame[k]
      if (notes.begins[k] === 1) {
        this.held++
        if (!starts) continue
        this.marks[at] = 1
        this.strengths[at] = notes.velocity[k]
      } else if (this.held > 0 && --this.held === 0 && starts) this.ends[at] = 1
    }
  }

  private byGate(gate: Float64Array | null, level: number, held: number): void {
    for (let i = 0; i < BLOCK; i++) {
      const on = held === 1 || (gate !== null && gate[i] >= level) ? 1 : 0
      if (on > this.gate) this.marks[i] = 1
      if (on < this.gate) this.ends[i] = 1
      this.gate = on
    }
  }

  private bySong(song: SongBlock, every: number): void {
    for (let i = 0; i < BLOCK; i++) {
      const n = song.playing ? Math.floor(song.run[i] / every + 1e-9) : this.count
      if (n !== this.count) this.marks[i] = 1
      this.count = n
    }
  }

  private byHits({ left, right }: StereoBlock, level: number): void {
    const { levels, marks, strengths } = this
    for (let i = 0; i < BLOCK; i++) {
      const l = left[i] < 0 ? -left[i] : left[i]
      const r = right[i] < 0 ? -right[i] : right[i]
      levels[i] = l > r ? l : r
    }
    this.onset.mark(levels, level * level, marks)
    for (let i = 0; i < BLOCK; i++) if (marks[i] === 1) strengths[i] = levels[i] > 1 ? 1 : levels[i]
  }
}
