import { Fft } from './fft'
import { PI, atan, cosCycles, exp2, log2, sinCycles } from './math'

const SIZE = 2048
/** Frames of a spectrum at most, and how many overlap. */
const LONGEST = 4096
const OVERLAP = 4
/**
 * Cepstral coefficients that are kept as the envelope: formants, and not the partials, of voices up to some
 * 320 Hz.
 */
const LIFTER = 100
/** How many bins must grow together for an onset, and by how much. */
const ONSET_SHARE = 0.35
const ONSET_RISE = 2.5

/** Samples from its input to its output. */
export const VOCODER_LATENCY = SIZE
/** Samples from one frame to the next. */
export const VOCODER_HOP = SIZE / OVERLAP

/**
 * What vocoders of one length share. Hann windows before and after overlap-add: four of their squares add up
 * to 1.5.
 */
interface Frames {
  readonly fft: Fft
  readonly window: Float64Array
}
const frames = new Map<number, Frames>()
function framesOf(size: number): Frames {
  const known = frames.get(size)
  if (known) return known
  const made = {
    fft: new Fft(size),
    window: Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * cosCycles(i / size)),
  }
  frames.set(size, made)
  return made
}
/**
 * Level that is left of a tone moved by so much less than a whole bin, −½…½ in steps of 1/64: the frames that
 * overlap then differ in phase away from their
 * middles.
 */
const parts = Float64Array.from({ length: 33 }, (_, k) => {
  const { window } = framesOf(SIZE)
  let sum = 0
  let all = 0
  for (let i = 0; i < SIZE; i++) {
    const w = window[i] * window[i]
    sum += w * cosCycles(((k / 64) * (i - SIZE / 2)) / SIZE)
    all += w
  }
  return all / sum
})

// one vocoder works after the other, so what does not outlive a frame is shared
const re = new Float64Array(LONGEST),
  im = new Float64Array(LONGEST)
const outRe = new Float64Array(LONGEST),
  outIm = new Float64Array(LONGEST)
const BINS = LONGEST / 2 + 1
const leftRe = new Float64Array(BINS),
  leftIm = new Float64Array(BINS),
  rightRe = new Float64Array(BINS),
  rightIm = new Float64Array(BINS)
const magnitude = new Float64Array(BINS),
  envelope = new Float64Array(BINS)
const peaks = new Int32Array(BINS)

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
 * Pitch shift by moving the peaks of short spectra, each with its neighbours and in one phase with them
 * (Laroche & Dolson, "New phase-vocoder techniques
 * for pitch-shifting, harmonizing and other exotic effects", WASPAA 1999); phases are reset at onsets.
 * Formants stay, or move on their own, by a
 * cepstral envelope. Stereo: both sides are turned alike, so their place stays.
 */
export class PhaseVocoder {
  private readonly inL: Float64Array
  private readonly inR: Float64Array
  private readonly sumL: Float64Array
  private readonly sumR: Float64Array
  private readonly phases: Float64Array
  private readonly nextPhases: Float64Array
  /** Angles of the last frame, and its magnitudes, by bin. */
  private readonly angles: Float64Array
  private readonly before: Float64Array
  private readonly shared: Frames
  private at = 0
  /** Ratio of pitch of the last frame; 0 before the first one. */
  private readonly ratioBefore = new Float64Array(1)
  private readonly left: Float64Array
  private readonly right: Float64Array

  /**
   * @param size frames of a spectrum, 2048 or 4096: longer tells low tones apart, shorter keeps time better;
   *   also its latency in samples
   */
  constructor(
    out: { left: Float64Array; right: Float64Array },
    private readonly size = SIZE,
  ) {
    this.left = out.left
    this.right = out.right
    this.shared = framesOf(size)
    this.inL = new Float64Array(size)
    this.inR = new Float64Array(size)
    this.sumL = new Float64Array(size)
    this.sumR = new Float64Array(size)
    const bins = size / 2 + 1
    this.phases = new Float64Array(bins)
    this.nextPhases = new Float64Array(bins)
    this.angles = new Float64Array(bins)
    this.before = new Float64Array(bins)
  }

  reset(): void {
    for (const a of [
      this.inL,
      this.inR,
      this.sumL,
      this.sumR,
      this.phases,
      this.angles,
      this.before,
      this.ratioBefore,
    ])
      a.fill(0)
    this.at = 0
  }

  /** Restarts as if these samples had come before: three quarters of the size. */
  begin(l: Float64Array, r: Float64Array): void {
    this.reset()
    this.inL.set(l)
    this.inR.set(r)
  }

  /**
   * A block; its length divides a quarter of the size. Its output comes as many samples later as the size.
   * @param ratio of pitch @param formants −1 as they go with the pitch, else the ratio of their own
   */
  process(l: Float64Array, r: Float64Array, ratio: number, formants: number): void {
    const { inL, inR, sumL, sumR, left, right, size } = this
    const hop = size / OVERLAP
    const n = l.length
    const { at } = this
    for (let i = 0; i < n; i++) {
      left[i] = sumL[at + i]
      right[i] = sumR[at + i]
      inL[size - hop + at + i] = l[i]
      inR[size - hop + at + i] = r[i]
    }
    this.at += n
    if (this.at < hop) return
    this.at = 0
    sumL.copyWithin(0, hop)
    sumR.copyWithin(0, hop)
    sumL.fill(0, size - hop)
    sumR.fill(0, size - hop)
    this.frame(ratio, formants)
    inL.copyWithin(0, hop)
    inR.copyWithin(0, hop)
  }

  private frame(ratio: number, formants: number): void {
    const {
      sumL,
      sumR,
      size,
      shared: { fft, window },
    } = this
    if (!this.analyse()) {
      this.phases.fill(0)
      this.before.fill(0)
      this.ratioBefore[0] = 0
      return
    }
    const onset = this.isOnset()
    const old = this.ratioBefore[0] > 0 ? this.ratioBefore[0] : ratio
    this.ratioBefore[0] = ratio
    if (formants >= 0) envelopeOf(magnitude, envelope, fft, size)
    outRe.fill(0)
    outIm.fill(0)
    const count = findPeaks(size / 2)
    for (let p = 0; p < count; p++) this.movePeak(p, count, ratio, old, formants, onset)
    this.remember()
    // the inverse by the forward transform of the swapped parts
    fft.forward(outIm, outRe)
    const scale = 1 / (1.5 * size)
    for (let i = 0; i < size; i++) {
      sumL[i] += outRe[i] * window[i] * scale
      sumR[i] += outIm[i] * window[i] * scale
    }
  }

  /** Spectra of both sides, in one transform: left real, right imaginary. Whether there is anything. */
  private analyse(): boolean {
    const {
      inL,
      inR,
      size,
      shared: { fft, window },
    } = this
    let energy = 0
    for (let i = 0; i < size; i++) {
      re[i] = inL[i] * window[i]
      im[i] = inR[i] * window[i]
      energy += re[i] * re[i] + im[i] * im[i]
    }
    if (energy < 1e-16) return false
    fft.forward(re, im)
    for (let k = 0; k <= size / 2; k++) {
      const m = (size - k) & (size - 1)
      leftRe[k] = 0.5 * (re[k] + re[m])
      leftIm[k] = 0.5 * (im[k] - im[m])
      rightRe[k] = 0.5 * (im[k] + im[m])
      rightIm[k] = 0.5 * (re[m] - re[k])
      magnitude[k] = Math.sqrt(
        leftRe[k] * leftRe[k] + leftIm[k] * leftIm[k] + rightRe[k] * rightRe[k] + rightIm[k] * rightIm[k],
      )
    }
    return true
  }

  private isOnset(): boolean {
    let grown = 0
    let heard = 0
    for (let k = 2; k < this.size / 2; k++) {
      if (magnitude[k] < 1e-6) continue
      heard += magnitude[k]
      if (magnitude[k] > ONSET_RISE * this.before[k]) grown += magnitude[k]
    }
    return grown > ONSET_SHARE * heard
  }

  /**
   * Adds a peak with its neighbours at its new place. Phases are those at the beginning of a frame; what a
   * new ratio changes is turned about its middle, and from one middle to the next they turn by the mean of
   * both, so that a glide keeps its time.
   */
  private movePeak(
    p: number,
    count: number,
    ratio: number,
    old: number,
    formants: number,
    onset: boolean,
  ): void {
    const { size, angles, before, phases, nextPhases } = this
    const hop = size / OVERLAP
    const half = size / 2
    const k = peaks[p]
    const expected = (k * hop) / size
    let turn = angleOf(k) - angles[k] - expected
    turn -= Math.floor(turn + 0.5)
    // in bins; by the shape of the peak where it has only begun
    const place = onset || before[k] < 1e-9 ? k : k + (turn * size) / hop
    const shift = (ratio - 1) * place
    const whole = Math.round(shift)
    const turns = ((0.5 * (ratio + old) - 1) * hop) / size - 0.5 * (ratio - old)
    const phase = onset ? 0 : phases[k] + turns * place
    const kept = phase - Math.floor(phase)
    // turned about the middle of the frame, where what the whole bins miss is nothing
    const total = kept + 0.5 * (shift - whole)
    const makeUp = parts[Math.round(64 * Math.abs(shift - whole))]
    const c = makeUp * cosCycles(total)
    const s = makeUp * sinCycles(total)
    const from = p === 0 ? 0 : (peaks[p - 1] + k + 1) >> 1
    const to = p === count - 1 ? half : (k + peaks[p + 1]) >> 1
    for (let j = from; j <= to; j++) {
      nextPhases[j] = kept
      const y = j + whole
      if (y < 1 || y >= half) continue
      let g = 1
      if (formants >= 0) {
        const source = Math.min(half, Math.max(0, y / formants))
        const i = Math.floor(source)
        const next = envelope[Math.min(half, i + 1)]
        g = Math.min(30, exp2(envelope[i] + (source - i) * (next - envelope[i]) - envelope[j]))
      }
      const m = size - y
      const lr = g * (leftRe[j] * c - leftIm[j] * s)
      const li = g * (leftRe[j] * s + leftIm[j] * c)
      const rr = g * (rightRe[j] * c - rightIm[j] * s)
      const ri = g * (rightRe[j] * s + rightIm[j] * c)
      // left + i · right, and its mirror image
      outRe[y] += lr - ri
      outIm[y] += li + rr
      outRe[m] += lr + ri
      outIm[m] += rr - li
    }
  }

  /** Keeps what the next frame is compared with. */
  private remember(): void {
    const { angles, before } = this
    for (let k = 0; k <= this.size / 2; k++) {
      if (magnitude[k] > 1e-9) angles[k] = angleOf(k)
      before[k] = magnitude[k]
    }
    this.phases.set(this.nextPhases)
  }
}

/** Angle of a bin on its louder side, in turns: how far it turns in a hop tells its frequency. */
function angleOf(k: number): number {
  const isLeft =
    leftRe[k] * leftRe[k] + leftIm[k] * leftIm[k] >= rightRe[k] * rightRe[k] + rightIm[k] * rightIm[k]
  return isLeft ? turnsOf(leftIm[k], leftRe[k]) : turnsOf(rightIm[k], rightRe[k])
}

/** Writes the bins of the peaks of a spectrum; gives how many. */
function findPeaks(half: number): number {
  let count = 0
  for (let k = 1; k < half; k++)
    if (
      magnitude[k] > magnitude[k - 1] &&
      magnitude[k] >= magnitude[k + 1] &&
      (k < 2 || magnitude[k] >= magnitude[k - 2]) &&
      (k > half - 2 || magnitude[k] > magnitude[k + 2])
    )
      peaks[count++] = k
  return count
}

/**
 * Base-2 logarithm of a spectrum, smoothed by its cepstrum (Röbel & Rodet, "Efficient spectral envelope
 * estimation", DAFx 2005, its first step).
 */
function envelopeOf(spectrum: Float64Array, out: Float64Array, fft: Fft, size: number): void {
  const half = size / 2
  for (let k = 0; k <= half; k++) {
    const v = log2(spectrum[k] + 1e-9)
    re[k] = v
    if (k > 0 && k < half) re[size - k] = v
  }
  im.fill(0)
  fft.forward(re, im)
  for (let k = 0; k < size; k++) {
    const n = k <= half ? k : size - k
    const w = n < LIFTER ? 1 : n < 1.5 * LIFTER ? 0.5 + 0.5 * cosCycles((n - LIFTER) / LIFTER) : 0
    re[k] *= w / size
    im[k] = 0
  }
  fft.forward(re, im)
  for (let k = 0; k <= half; k++) out[k] = re[k]
}
