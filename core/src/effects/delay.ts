import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { log2, poleFor } from '../dsp/math'
import { onePoleWeight, onePoleWeights } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { beats, boost, choice, hertz, percent, seconds, toggle } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Longest delay in seconds, in both free and synced time. */
export const LONGEST_DELAY = 8

/**
 * Delay with filters, saturation and ping-pong in the feedback path, read by 8-tap windowed sinc.
 * Time changes either bend pitch as a tape would (varispeed: the time glides) or fade from the old place to the new.
 */
export const delay = defineEffect({
  id: 'delay',
  name: 'Delay',
  group: 'time',
  tip: 'Echoes, free or in note lengths, with a filtered and saturated feedback path',
  params: {
    sync: toggle('Sync', false, 'Take the time from a note length instead of milliseconds'),
    time: seconds('Time', { min: 0.0005, max: 4, default: 0.25, tip: 'Delay time' }),
    length: beats('Length', { min: 1 / 16, max: 16, default: 0.75, tip: 'Delay time as a note length' }),
    feedback: percent('Feedback', { max: 1.2, default: 0.35, tip: 'How much comes round again; above 100 % it holds itself in the saturation' }),
    path: choice('Path', ['straight', 'ping-pong'], 0, 'Echoes stay where they are, or cross sides each time round'),
    change: choice('Change', ['varispeed', 'cross-fade'], 0, 'What a changed time does: bend the pitch, or fade to the new place'),
    lowCut: hertz('Low cut', { min: 20, max: 2000, default: 60, tip: 'High-pass in the feedback path' }),
    highCut: hertz('High cut', { min: 500, max: 20_000, default: 9000, tip: 'Low-pass in the feedback path' }),
    saturation: boost('Saturation', { min: 0, max: 30, default: 0, tip: 'Drives the feedback path; its level stays the same' }),
    width: percent('Width', { max: 1.5, default: 1, tip: 'Width of the echoes: 0 % is mono' }),
  },
  tail: (v, beatsPerSecond) => {
    const time = Math.min(LONGEST_DELAY, v.sync >= 0.5 ? v.length / beatsPerSecond : v.time)
    return v.feedback >= 0.999 ? Infinity : time * (1 + (v.feedback > 0.001 ? -20 / log2(v.feedback) : 0)) + 0.05
  },
  presets: [
    { name: 'Across the quay', params: { sync: 1, length: 0.75, feedback: 0.4, path: 1, wet: 0.35 } },
    { name: 'Slap', params: { time: 0.095, feedback: 0.08, wet: 0.4 } },
    { name: 'Dark tape', params: { time: 0.38, feedback: 0.6, highCut: 2600, lowCut: 140, saturation: 9, wet: 0.35 } },
    { name: 'Metal tube', params: { time: 0.006, feedback: 0.8, wet: 0.5 } },
  ],
  create: ({ sampleRate }) => {
    const longest = LONGEST_DELAY * sampleRate
    const line = new StereoDelayLine(longest, 6, BLOCK)
    const times = line.block(), readL = line.block(), readR = line.block()
    const fadeTimes = line.block(), fadeL = line.block(), fadeR = line.block()
    const writeL = new Float64Array(BLOCK)
    const writeR = new Float64Array(BLOCK)
    const fadeFrames = Math.round(0.03 * sampleRate)
    const glide = 1 - poleFor(0.04, sampleRate)
    // time now heard, time faded from, frames left of the fade, glided time; filter states of both sides; how far crossed, and whether that is known. In an array,
    // since numbers kept by a closure are boxed anew at each change.
    const state = new Float64Array(10)
    const pathGlide = 1 - poleFor(0.01, sampleRate / BLOCK)
    // low and high cut, and the weights worked out for them
    const known = new Float64Array(4).fill(NaN)
    const lowWeights = new Float64Array(BLOCK)
    const highWeights = new Float64Array(BLOCK)

    return {
      reset() {
        line.reset()
        state.fill(0)
      },
      isQuiet: () => line.isQuiet,
      process({ in: input, out, song }, p) {
        let now = state[0], from = state[1], fade = state[2], glided = state[3]
        let lowL = state[4], lowR = state[5], highL = state[6], highR = state[7]
        const synced = p.sync.value === 1
        const source = synced ? p.length : p.time
        const scale = synced ? 1 / song.beatsPerFrame : sampleRate
        const inL = input.left, inR = input.right, outL = out.left, outR = out.right
        const asked = source.values()
        const crossfade = p.change.value === 1
        const first = clampDelay(asked[0] * scale, longest)
        if (now === 0) glided = now = first
        // A constant time that differs from what is heard was edited; varispeed glides there on its own, slower than the gauge.
        const edited = !crossfade && source.constant && glided !== first
        for (let i = 0; i < BLOCK; i++) {
          const t = asked[i] * scale
          let wanted = Math.min(longest, Math.max(LEAST_DELAY, t))
          if (edited) {
            glided += glide * (wanted - glided)
            if (glided - wanted < 1e-6 && wanted - glided < 1e-6) glided = wanted
            wanted = glided
          }
          times[i] = wanted
        }
        if (crossfade) {
          const wanted = times[BLOCK - 1]
          if (fade === 0 && (wanted - now > 0.5 || now - wanted > 0.5)) {
            from = now
            now = wanted
            fade = fadeFrames
          }
          if (fade > 0) fadeTimes.fill(from)
          times.fill(now)
          glided = now
        } else {
          glided = now = times[BLOCK - 1]
          fade = 0
        }
        // from straight to crossed in some milliseconds, since a jump would go round in the line
        const pathFrom = state[9] === 0 ? p.path.value : state[8]
        const pathTo = state[9] === 0 ? p.path.value : pathFrom + pathGlide * (p.path.value - pathFrom)
        state[8] = Math.abs(pathTo - p.path.value) < 1e-4 ? p.path.value : pathTo
        state[9] = 1
        const pathStep = (state[8] - pathFrom) / BLOCK
        const isStraight = pathFrom === 0 && state[8] === 0
        const fbs = p.feedback.values()
        if (known[0] !== p.lowCut.value) known[2] = onePoleWeight(known[0] = p.lowCut.value, sampleRate)
        if (known[1] !== p.highCut.value) known[3] = onePoleWeight(known[1] = p.highCut.value, sampleRate)
        if (p.lowCut.constant) lowWeights.fill(known[2])
        else onePoleWeights(p.lowCut.buffer, sampleRate, lowWeights)
        if (p.highCut.constant) highWeights.fill(known[3])
        else onePoleWeights(p.highCut.buffer, sampleRate, highWeights)
        const drives = p.saturation.values()
        const driven = !p.saturation.constant || p.saturation.value > 1
        const widths = p.width.values()
        const mono = p.width.constant && p.width.value === 1
        let least = times[0]
        for (let i = 1; i < BLOCK; i++) if (times[i] < least) least = times[i]
        if (fade > 0 && from < least) least = from
        // As many samples at a time as come out before the first of them goes in again.
        const stretch = Math.max(1, Math.min(BLOCK, Math.floor(least) - LEAST_DELAY + 1))
        for (let start = 0; start < BLOCK; start += stretch) {
          const end = Math.min(BLOCK, start + stretch)
          line.read(times, readL, readR, start, end)
          if (fade > 0) line.read(fadeTimes, fadeL, fadeR, start, end)
          for (let i = start; i < end; i++) {
            let l = readL[i]
            let r = readR[i]
            if (fade > 0) {
              const w = fade / fadeFrames
              l += w * (fadeL[i] - l)
              r += w * (fadeR[i] - r)
              fade--
            }
            // feedback path: low cut, high cut, saturation
            const a = lowWeights[i]
            const b = highWeights[i]
            lowL += a * (l - lowL)
            lowR += a * (r - lowR)
            highL += b * (l - lowL - highL)
            highR += b * (r - lowR - highR)
            let fl = highL * fbs[i]
            let fr = highR * fbs[i]
            // from unity on the loop always saturates, so self-oscillation stays bounded
            if (driven || fbs[i] >= 1) {
              const d = drives[i]
              fl = fl / Math.sqrt(1 + d * d * fl * fl * 0.25)
              fr = fr / Math.sqrt(1 + d * d * fr * fr * 0.25)
            }
            if (isStraight) {
              writeL[i] = inL[i] + fl
              writeR[i] = inR[i] + fr
            } else {
              const crossed = pathFrom + pathStep * (i + 1)
              const straightL = inL[i] + fl
              const straightR = inR[i] + fr
              writeL[i] = straightL + crossed * (0.5 * (inL[i] + inR[i]) + fr - straightL)
              writeR[i] = straightR + crossed * (fl - straightR)
            }
            if (mono) {
              outL[i] = l
              outR[i] = r
            } else {
              const m = 0.5 * (l + r)
              const s = 0.5 * (l - r) * widths[i]
              outL[i] = m + s
              outR[i] = m - s
            }
          }
          line.write(writeL, writeR, start, end)
        }
        state[0] = now
        state[1] = from
        state[2] = fade
        state[3] = glided
        state[4] = Math.abs(lowL) < 1e-20 ? 0 : lowL
        state[5] = Math.abs(lowR) < 1e-20 ? 0 : lowR
        state[6] = Math.abs(highL) < 1e-20 ? 0 : highL
        state[7] = Math.abs(highR) < 1e-20 ? 0 : highR
      },
    }
  },
})

const clampDelay = (t: number, longest: number): number => Math.min(longest, Math.max(LEAST_DELAY, t))
