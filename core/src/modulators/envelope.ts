import { bendBlock } from '../dsp/drawn-shape'
import { Onset } from '../dsp/onset'
import { BLOCK } from '../contract/block'
import { beats, choice, number, percent, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

export const envelopeTriggers = ['notes', 'gate', 'play', 'hits'] as const
const BY_NOTES = 0,
  BY_GATE = 1
const IDLE = 0,
  ATTACK = 1,
  HOLD = 2,
  DECAY = 3,
  SUSTAIN = 4,
  RELEASE = 5
// places of its state: frames in the stage, level now and at the start of the stage, peak by velocity, notes
// held, gate, song count, trigger
const STAGE = 0,
  IN_STAGE = 1,
  LEVEL = 2,
  FROM = 3,
  PEAK = 4,
  HELD = 5,
  GATE = 6,
  COUNT = 7,
  TRIGGER = 8

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
  tip: 'Rises and falls when notes, a gate, the song or hits start it',
  outputs: ['envelope'],
  readouts: ['stage', 'way'],
  inputs: ['gate'],
  listens: true,
  notes: true,
  params: {
    trigger: choice('Trigger', envelopeTriggers, 3, 'What starts it'),
    attack: seconds('Attack', { min: 0, max: 10, default: 0.01, tip: 'Time up' }),
    hold: seconds('Hold', { min: 0, max: 10, default: 0, tip: 'Time at the top' }),
    decay: seconds('Decay', { min: 0, max: 20, default: 0.3, tip: 'Time down to the sustain level' }),
    sustain: percent('Sustain', { default: 0.4, tip: 'Level while the note or gate lasts' }),
    release: seconds('Release', { min: 0, max: 20, default: 0.4, tip: 'Time down to nothing' }),
    rise: number('Rise bend', { min: -1, max: 1, default: 0, tip: 'Below 0 early, above 0 late' }),
    fall: number('Fall bend', { min: -1, max: 1, default: -0.4, tip: 'Below 0 early, above 0 late' }),
    velocity: percent('Velocity', { default: 0, tip: 'How much a soft note or hit lowers it' }),
    every: beats('Every', { min: 1 / 16, max: 64, default: 1, tip: 'Beats between starts by the song' }),
    level: percent('Level', {
      default: 0.3,
      tip: 'Where the gate must rise through, and the least level of a hit',
    }),
  },
  applies: (param, value) => {
    const trigger = value('trigger')
    if (param === 'every') return trigger === 2
    if (param === 'level') return trigger === 1 || trigger === 3
    return param !== 'velocity' || trigger === 0 || trigger === 3
  },
  uses: (value) => ({ listens: value('trigger') === 3, inputs: value('trigger') === 1 }),
  summary: (is) => `envelope · by ${is.text('trigger')}`,
  create: ({ sampleRate }) => {
    const state = new Float64Array(9)
    const readouts = new Float64Array(2)
    const onset = new Onset(sampleRate)
    const levels = new Float64Array(BLOCK)
    const marks = new Uint8Array(BLOCK)
    const ends = new Uint8Array(BLOCK)
    const strengths = new Float64Array(BLOCK)
    return {
      readouts,
      reset() {
        state.fill(0)
        state[COUNT] = state[TRIGGER] = -1
        onset.reset()
      },
      process({ outputs, song, inputs, notes, side }, p) {
        const trigger = p.trigger.value
        const y = outputs[0].buffer
        marks.fill(0)
        ends.fill(0)
        strengths.fill(1)
        const level = p.level.value
        // notes that are held are counted whatever starts it, so that none is missed when that is changed
        for (let k = 0; k < notes.count; k++) {
          const at = notes.frame[k]
          if (notes.begins[k] === 1) {
            state[HELD]++
            if (trigger !== BY_NOTES) continue
            marks[at] = 1
            strengths[at] = notes.velocity[k]
          } else if (state[HELD] > 0 && --state[HELD] === 0 && trigger === BY_NOTES) ends[at] = 1
        }
        // what held it up before holds it up no more
        const lasted = state[TRIGGER] === BY_NOTES || state[TRIGGER] === BY_GATE
        if (
          lasted &&
          trigger !== state[TRIGGER] &&
          !(trigger === BY_NOTES && state[HELD] > 0) &&
          state[STAGE] !== RELEASE
        )
          ends[0] = 1
        state[TRIGGER] = trigger
        if (trigger === BY_NOTES) {
          // told above
        } else if (trigger === BY_GATE) {
          const gate = inputs[0]?.values()
          if (gate) {
            for (let i = 0; i < BLOCK; i++) {
              const on = gate[i] >= level ? 1 : 0
              if (on > state[GATE]) marks[i] = 1
              if (on < state[GATE]) ends[i] = 1
              state[GATE] = on
            }
          }
        } else if (trigger === 2) {
          const every = p.every.value
          for (let i = 0; i < BLOCK; i++) {
            const n = song.playing ? Math.floor(song.run[i] / every + 1e-9) : state[COUNT]
            if (n !== state[COUNT]) marks[i] = 1
            state[COUNT] = n
          }
        } else {
          for (let i = 0; i < BLOCK; i++) {
            const l = side.left[i] < 0 ? -side.left[i] : side.left[i]
            const r = side.right[i] < 0 ? -side.right[i] : side.right[i]
            levels[i] = l > r ? l : r
          }
          onset.mark(levels, level * level, marks)
          for (let i = 0; i < BLOCK; i++) if (marks[i] === 1) strengths[i] = levels[i] > 1 ? 1 : levels[i]
        }
        const attack = p.attack.value * sampleRate,
          hold = p.hold.value * sampleRate,
          decay = p.decay.value * sampleRate,
          release = p.release.value * sampleRate
        const rise = p.rise.value,
          fall = p.fall.value,
          weight = p.velocity.value
        const sustains = p.sustain.values()
        const lasting = trigger === BY_NOTES || trigger === BY_GATE
        let stage = state[STAGE],
          at = state[IN_STAGE],
          now = state[LEVEL],
          from = state[FROM],
          peak = state[PEAK]
        for (let i = 0; i < BLOCK;) {
          if (marks[i] === 1) {
            stage = ATTACK
            at = 0
            from = now
            peak = 1 - weight * (1 - strengths[i])
          } else if (ends[i] === 1 && stage !== IDLE) {
            stage = RELEASE
            at = 0
            from = now
          }
          // as far as this stage goes
          const whole =
            stage === ATTACK
              ? attack
              : stage === HOLD
                ? hold
                : stage === DECAY
                  ? decay
                  : stage === RELEASE
                    ? release
                    : Infinity
          const last = Math.min(BLOCK, i + Math.floor(whole) + 1 - at)
          let end = i + 1
          while (end < last && marks[end] === 0 && ends[end] === 0) end++
          if (stage === ATTACK || stage === DECAY || stage === RELEASE) {
            for (let k = i; k < end; k++) y[k] = whole > 0 ? Math.min(1, (at + k - i) / whole) : 1
            bendBlock(y, stage === ATTACK ? rise : fall, i, end)
          }
          if (stage === ATTACK) for (let k = i; k < end; k++) y[k] = from + (peak - from) * y[k]
          else if (stage === HOLD) y.fill(peak, i, end)
          else if (stage === DECAY)
            for (let k = i; k < end; k++) y[k] = peak + (peak * sustains[k] - peak) * y[k]
          else if (stage === SUSTAIN) for (let k = i; k < end; k++) y[k] = peak * sustains[k]
          else if (stage === RELEASE) for (let k = i; k < end; k++) y[k] = from * (1 - y[k])
          else y.fill(now, i, end)
          now = y[end - 1]
          if (whole < Infinity) at += end - i
          i = end
          if (at <= whole) continue
          at = 0
          if (stage === ATTACK) stage = HOLD
          else if (stage === HOLD) stage = DECAY
          else if (stage === DECAY) {
            stage = lasting ? SUSTAIN : RELEASE
            from = now
          } else {
            stage = IDLE
            now = 0
          }
        }
        state[STAGE] = stage
        state[IN_STAGE] = at
        state[LEVEL] = now
        state[FROM] = from
        state[PEAK] = peak
        readouts[0] = stage
        const whole =
          stage === ATTACK
            ? attack
            : stage === HOLD
              ? hold
              : stage === DECAY
                ? decay
                : stage === RELEASE
                  ? release
                  : 0
        readouts[1] = whole > 0 ? at / whole : 0
        outputs[0].move()
      },
    }
  },
})
