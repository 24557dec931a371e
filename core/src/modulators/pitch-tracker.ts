import { poleFor } from '../dsp/math'
import { PitchDetector } from '../dsp/pitch-detector'
import { BLOCK } from '../contract/block'
import { percent, seconds, toggle } from '../units/parameter'
import { noteOf } from '../units/tuning'
import { defineModulator } from '../contract/modulator'

/**
 * Pitch and confidence of a track's sound, about 60 Hz to 1.2 kHz. Where it is unsure it can stay at the last
 * pitch.
 */
export const pitchTracker = defineModulator({
  id: 'pitch-tracker',
  name: 'Pitch tracker',
  load: { kB: 22, ns: 1240 },
  tip: 'Turns the pitch of a single voice or string into motion',
  outputs: ['pitch', 'confidence'],
  readouts: ['note', 'confidence'],
  listens: true,
  params: {
    least: percent('Min. confidence', { default: 0.8, tip: 'Confidence below which the pitch is ignored' }),
    hold: toggle('Hold', true, 'Keeps the last pitch while unsure; otherwise falls to the minimum'),
    glide: seconds('Glide', { min: 0, max: 2, default: 0.03, tip: 'Glide time to a new pitch' }),
  },
  summary: (is) => `pitch of ${is.listens || 'nothing'}`,
  create: ({ sampleRate }) => {
    const detector = new PitchDetector(sampleRate)
    // note wanted, note now, confidence now, whether any was found
    const state = new Float64Array(4)
    const readouts = new Float64Array(2)
    const soft = poleFor(0.01, sampleRate)
    return {
      readouts,
      reset() {
        detector.reset()
        state.fill(0)
      },
      process({ outputs, side }, p) {
        detector.process(side.left, side.right)
        const { clarity, frequency } = detector
        const sure = clarity >= p.least.value && frequency > 0
        if (sure) {
          const note = noteOf(frequency)
          state[0] = note < 0 ? 0 : note > 127.9 ? 127.9 : note
          if (state[3] === 0) state[1] = state[0]
          state[3] = 1
        } else if (p.hold.value === 0) state[0] = 0
        const pole = p.glide.value > 0.0005 ? poleFor(p.glide.value / 3, sampleRate) : 0
        const pitch = outputs[0].buffer
        const confidence = outputs[1].buffer
        let now = state[1],
          trust = state[2]
        const wanted = state[0]
        for (let i = 0; i < BLOCK; i++) {
          now = wanted + pole * (now - wanted)
          trust = clarity + soft * (trust - clarity)
          pitch[i] = now / 128
          confidence[i] = trust
        }
        state[1] = now
        state[2] = trust < 1e-12 ? 0 : trust
        readouts[0] = now
        readouts[1] = trust
        outputs[0].move()
        outputs[1].move()
      },
    }
  },
})
