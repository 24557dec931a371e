import { poleFor } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { choice, number, seconds } from '../units/parameter'
import { defineModulator } from '../contract/modulator'

/** Notes that can be held at once. */
const HELD = 32

/**
 * The notes of its track as motion: pitch with bend and glide, gate, velocity, bend and pressure. Of several
 * notes held, the newest, the lowest or the highest leads. Pitch and velocity stay where the last note left
 * them.
 */
export const notes = defineModulator({
  id: 'notes',
  name: 'Notes',
  load: { kB: 24, ns: 10 },
  tip: 'Turns the notes of this track into pitch, gate and velocity',
  outputs: ['pitch', 'gate', 'velocity', 'bend', 'pressure'],
  readouts: ['note'],
  notes: true,
  params: {
    leads: choice('Leads', ['newest', 'lowest', 'highest'], 0, 'Which of several held notes it follows'),
    bendRange: number('Bend range', {
      min: 0,
      max: 48,
      default: 2,
      tip: 'Range of the pitch bend in semitones',
    }),
    glide: seconds('Glide', {
      min: 0,
      max: 10,
      default: 0,
      tip: 'Glide time between notes',
    }),
  },
  summary: (is) => `notes · ${is.text('leads')} leads`,
  create: ({ sampleRate }) => {
    const ids = new Float64Array(HELD)
    const pitches = new Float64Array(HELD)
    const velocities = new Float64Array(HELD)
    // 0: number of held notes, 1: followed note, 2: gliding note, 3: velocity, 4: whether a note was played
    const state = new Float64Array(5)
    const readouts = new Float64Array(1)

    function lead(which: number): void {
      const held = state[0]
      if (held === 0) return
      let best = held - 1
      for (let k = 0; k < held; k++) {
        if ((which === 1 && pitches[k] < pitches[best]) || (which === 2 && pitches[k] > pitches[best]))
          best = k
      }
      state[1] = pitches[best]
      state[3] = velocities[best]
    }

    function release(id: number): void {
      const held = state[0]
      for (let k = 0; k < held; k++) {
        if (ids[k] !== id) continue
        ids.copyWithin(k, k + 1, held)
        pitches.copyWithin(k, k + 1, held)
        velocities.copyWithin(k, k + 1, held)
        state[0]--
        return
      }
    }

    return {
      readouts,
      reset() {
        state.fill(0)
        state[1] = state[2] = 60
      },
      process({ outputs, notes: line }, p) {
        const which = p.leads.value
        const bends = line.bend.values()
        const range = p.bendRange.values()
        const pole = p.glide.value > 0.0005 ? poleFor(p.glide.value / 3, sampleRate) : 0
        const [pitch, gate, velocity, bend, pressure] = outputs
        const pitchOut = pitch.buffer,
          gateOut = gate.buffer,
          velocityOut = velocity.buffer
        let next = 0
        for (let i = 0; i < BLOCK; i++) {
          while (next < line.count && line.frame[next] <= i) {
            if (line.begins[next] === 1) {
              if (state[0] === HELD) release(ids[0])
              const k = state[0]++
              ids[k] = line.id[next]
              pitches[k] = line.pitch[next]
              velocities[k] = line.velocity[next]
              lead(which)
              // a glide needs a note to come from
              if (state[4] === 0) state[2] = state[1]
              state[4] = 1
            } else {
              release(line.id[next])
              lead(which)
            }
            next++
          }
          state[2] = state[1] + pole * (state[2] - state[1])
          pitchOut[i] = (state[2] + (bends[i] - 0.5) * 2 * range[i]) / 128
          gateOut[i] = state[0] > 0 ? 1 : 0
          velocityOut[i] = state[3]
        }
        pitch.move()
        gate.move()
        velocity.move()
        pass(line.bend, bend)
        pass(line.pressure, pressure)
        readouts[0] = state[1]
      },
    }
  },
})

function pass(
  from: { constant: boolean; value: number; buffer: Float64Array },
  to: { hold(v: number): void; move(): void; buffer: Float64Array },
): void {
  if (from.constant) to.hold(from.value)
  else {
    to.buffer.set(from.buffer)
    to.move()
  }
}
