import { Fft } from './fft'
import { PI, atan, cosCycles, exp2, log2, sinCycles } from './math'

const SIZE = 2048
const HOP = 512
const HALF = SIZE / 2
/** Cepstral coefficients that are kept as the envelope: formants, and not the partials, of voices up to some 320 Hz. */
const LIFTER = 100
/** How many bins must grow together for an onset, and by how much. */
const ONSET_SHARE = 0.35
const ONSET_RISE = 2.5

/** Samples from its input to its output. */
export const VOCODER_LATENCY = SIZE

const fft = new Fft(SIZE)
// Hann windows before and after overlap-add: four of their squares add up to 1.5
const window = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * cosCycles(i / SIZE))
/**
 * Level that is left of a tone moved by so much less than a whole bin, −½…½ in steps of 1/64: the frames that overlap then differ in phase away from their
 * middles.
 */
const parts = Float64Array.from({ length: 33 }, (_, k) => {
  let sum = 0
  let all = 0
  for (let i = 0; i < SIZE; i++) {
    const w = window[i] * window[i]
    sum += w * cosCycles(k / 64 * (i - HALF) / SIZE)
    all += w
  }
  return all / sum
})

// one vocoder works after the other, so what does not outlive a frame is shared
const re = new Float64Array(SIZE), im = new Float64Array(SIZE)
const outRe = new Float64Array(SIZE), outIm = new Float64Array(SIZE)
const leftRe = new Float64Array(HALF + 1), leftIm = new Float64Array(HALF + 1), rightRe = new Float64Array(HALF + 1), rightIm = new Float64Array(HALF + 1)
const magnitude = new Float64Array(HALF + 1), envelope = new Float64Array(HALF + 1)
const peaks = new Int32Array(HALF + 1)

/** Angle of a complex number in turns, −½…½. */
function turnsOf(y: number, x: number): number {
  const ax = x < 0 ? -x : x
  const ay = y < 0 ? -y : y
  if (ax === 0 && ay === 0) return 0
  let t = ax >= ay ? atan(ay / ax) / (2 * PI) : 0.25 - atan(ax / ay) / (2 * PI)
  if (x < 0) t = 0.5 - t
  return y < 0 ? -t : t
}

/**
 * Pitch shift by moving the peaks of short spectra, each with its neighbours and in one phase with them (Laroche & Dolson, "New phase-vocoder techniques
 * for pitch-shifting, harmonizing and other exotic effects", WASPAA 1999); phases begin anew at onsets. Formants stay, or move on their own, by a
 * cepstral envelope. Stereo: both sides are turned alike, so their place stays.
 */
export class PhaseVocoder {
  private readonly inL = new Float64Array(SIZE)
  private readonly inR = new Float64Array(SIZE)
  private readonly sumL = new Float64Array(SIZE)
  private readonly sumR = new Float64Array(SIZE)
  private readonly phases = new Float64Array(HALF + 1)
  private readonly nextPhases = new Float64Array(HALF + 1)
  /** Angles of the last frame, and its magnitudes, by bin. */
  private readonly angles = new Float64Array(HALF + 1)
  private readonly before = new Float64Array(HALF + 1)
  private at = 0
  private readonly left: Float64Array
  private readonly right: Float64Array

  constructor(out: { left: Float64Array, right: Float64Array }) {
    this.left = out.left
    this.right = out.right
  }

  reset(): void {
    for (const a of [this.inL, this.inR, this.sumL, this.sumR, this.phases, this.angles, this.before]) a.fill(0)
    this.at = 0
  }

  /**
   * A block; its length divides 512. Its output comes {@link VOCODER_LATENCY} samples later.
   * @param ratio of pitch @param formants −1 as they go with the pitch, else the ratio of their own
   */
  process(l: Float64Array, r: Float64Array, ratio: number, formants: number): void {
    const { inL, inR, sumL, sumR, left, right } = this
    const n = l.length
    const { at } = this
    for (let i = 0; i < n; i++) {
      left[i] = sumL[at + i]
      right[i] = sumR[at + i]
      inL[SIZE - HOP + at + i] = l[i]
      inR[SIZE - HOP + at + i] = r[i]
    }
    this.at += n
    if (this.at < HOP) return
    this.at = 0
    sumL.copyWithin(0, HOP)
    sumR.copyWithin(0, HOP)
    sumL.fill(0, SIZE - HOP)
    sumR.fill(0, SIZE - HOP)
    this.frame(ratio, formants)
    inL.copyWithin(0, HOP)
    inR.copyWithin(0, HOP)
  }

  private frame(ratio: number, formants: number): void {
    const { inL, inR, sumL, sumR, phases, nextPhases, angles, before } = this
    // both sides in one transform: left real, right imaginary
    let energy = 0
    for (let i = 0; i < SIZE; i++) {
      re[i] = inL[i] * window[i]
      im[i] = inR[i] * window[i]
      energy += re[i] * re[i] + im[i] * im[i]
    }
    if (energy < 1e-16) {
      phases.fill(0)
      before.fill(0)
      return
    }
    fft.forward(re, im)
    for (let k = 0; k <= HALF; k++) {
      const m = (SIZE - k) & (SIZE - 1)
      leftRe[k] = 0.5 * (re[k] + re[m])
      leftIm[k] = 0.5 * (im[k] - im[m])
      rightRe[k] = 0.5 * (im[k] + im[m])
      rightIm[k] = 0.5 * (re[m] - re[k])
      magnitude[k] = Math.sqrt(leftRe[k] * leftRe[k] + leftIm[k] * leftIm[k] + rightRe[k] * rightRe[k] + rightIm[k] * rightIm[k])
    }
    let grown = 0
    let heard = 0
    for (let k = 2; k < HALF; k++) {
      if (magnitude[k] < 1e-6) continue
      heard += magnitude[k]
      if (magnitude[k] > ONSET_RISE * before[k]) grown += magnitude[k]
    }
    const onset = grown > ONSET_SHARE * heard
    const moves = formants >= 0
    if (moves) envelopeOf(magnitude, envelope)
    outRe.fill(0)
    outIm.fill(0)
    let count = 0
    for (let k = 1; k < HALF; k++) if (magnitude[k] > magnitude[k - 1] && magnitude[k] >= magnitude[k + 1] && (k < 2 || magnitude[k] >= magnitude[k - 2]) && (k > HALF - 2 || magnitude[k] > magnitude[k + 2])) peaks[count++] = k
    for (let p = 0; p < count; p++) {
      const k = peaks[p]
      // the louder side tells the frequency: how far its phase has turned in a hop
      const isLeft = leftRe[k] * leftRe[k] + leftIm[k] * leftIm[k] >= rightRe[k] * rightRe[k] + rightIm[k] * rightIm[k]
      const angle = isLeft ? turnsOf(leftIm[k], leftRe[k]) : turnsOf(rightIm[k], rightRe[k])
      const expected = k * HOP / SIZE
      let turn = angle - angles[k] - expected
      turn -= Math.floor(turn + 0.5)
      // in bins; by the shape of the peak where it has only begun
      const true_ = onset || before[k] < 1e-9 ? k : k + turn * SIZE / HOP
      const shift = (ratio - 1) * true_
      const whole = Math.round(shift)
      const phase = onset ? 0 : phases[k] + shift * HOP / SIZE
      const kept = phase - Math.floor(phase)
      // turned about the middle of the frame, where what the whole bins miss is nothing
      const total = kept + 0.5 * (shift - whole)
      const makeUp = parts[Math.round(64 * Math.abs(shift - whole))]
      const c = makeUp * cosCycles(total)
      const s = makeUp * sinCycles(total)
      const from = p === 0 ? 0 : (peaks[p - 1] + k + 1) >> 1
      const to = p === count - 1 ? HALF : (k + peaks[p + 1]) >> 1
      for (let j = from; j <= to; j++) {
        nextPhases[j] = kept
        const y = j + whole
        if (y < 1 || y >= HALF) continue
        let g = 1
        if (moves) {
          const source = Math.min(HALF, Math.max(0, y / formants))
          const i = Math.floor(source)
          g = Math.min(30, exp2((envelope[i] + (source - i) * (envelope[Math.min(HALF, i + 1)] - envelope[i])) - envelope[j]))
        }
        const m = SIZE - y
        const lr = g * (leftRe[j] * c - leftIm[j] * s), li = g * (leftRe[j] * s + leftIm[j] * c)
        const rr = g * (rightRe[j] * c - rightIm[j] * s), ri = g * (rightRe[j] * s + rightIm[j] * c)
        // left + i · right, and its mirror image
        outRe[y] += lr - ri
        outIm[y] += li + rr
        outRe[m] += lr + ri
        outIm[m] += rr - li
      }
    }
    for (let k = 0; k <= HALF; k++) {
      const isLeft = leftRe[k] * leftRe[k] + leftIm[k] * leftIm[k] >= rightRe[k] * rightRe[k] + rightIm[k] * rightIm[k]
      if (magnitude[k] > 1e-9) angles[k] = isLeft ? turnsOf(leftIm[k], leftRe[k]) : turnsOf(rightIm[k], rightRe[k])
      before[k] = magnitude[k]
    }
    phases.set(nextPhases)
    // the inverse by the forward transform of the swapped parts
    fft.forward(outIm, outRe)
    const scale = 1 / (1.5 * SIZE)
    for (let i = 0; i < SIZE; i++) {
      sumL[i] += outRe[i] * window[i] * scale
      sumR[i] += outIm[i] * window[i] * scale
    }
  }
}

/** Base-2 logarithm of a spectrum, smoothed by its cepstrum (Röbel & Rodet, "Efficient spectral envelope estimation", DAFx 2005, its first step). */
function envelopeOf(spectrum: Float64Array, out: Float64Array): void {
  for (let k = 0; k <= HALF; k++) {
    const v = log2(spectrum[k] + 1e-9)
    re[k] = v
    if (k > 0 && k < HALF) re[SIZE - k] = v
  }
  im.fill(0)
  fft.forward(re, im)
  for (let k = 0; k < SIZE; k++) {
    const n = k <= HALF ? k : SIZE - k
    const w = n < LIFTER ? 1 : n < 1.5 * LIFTER ? 0.5 + 0.5 * cosCycles((n - LIFTER) / LIFTER) : 0
    re[k] *= w / SIZE
    im[k] = 0
  }
  fft.forward(re, im)
  for (let k = 0; k <= HALF; k++) out[k] = re[k]
}
