import { exp, log, pow, sinCycles } from '../dsp/math'
import { Random } from '../dsp/random'

/** Where a search begins: middle 0…1 of each dimension, and how far around it is looked first. */
export interface CmaStart {
  readonly middle: readonly number[]
  readonly spread: number
  readonly seed: number
  /** Points of a generation; what suits the number of dimensions where it is 0. */
  readonly size?: number
}

/** What is added for each point outside 0…1, per square of its distance, in units of the losses. */
const OUTSIDE = 30
/** The search has settled where its spread is below this share of a range. */
const LEAST_SPREAD = 2e-4

/**
 * Covariance matrix adaptation evolution strategy (Hansen, *The CMA Evolution Strategy: A Tutorial*, 2016)
 * for a loss over 0…1 in each dimension. Points outside are judged where the range ends, and worse the
 * farther out they are. The same seed and losses give the same points on every machine.
 */
export class CmaEs {
  readonly size: number
  private readonly n: number
  private readonly mean: Float64Array
  private readonly weights: Float64Array
  private readonly effective: number
  private readonly rates: {
    cs: number
    cc: number
    c1: number
    cmu: number
    damping: number
    expected: number
  }
  private spread: number
  private readonly covariance: Float64Array[]
  private axes: Float64Array[]
  private lengths: Float64Array
  private readonly pathSpread: Float64Array
  private readonly pathShape: Float64Array
  private readonly random: Random
  private points: Float64Array[] = []
  private generation = 0

  constructor({ middle, spread, seed, size }: CmaStart) {
    const n = (this.n = middle.length)
    this.size = size || 4 + Math.floor(3 * log(n))
    this.mean = Float64Array.from(middle)
    this.spread = spread
    this.random = new Random(seed)
    const half = Math.floor(this.size / 2)
    const raw = Float64Array.from({ length: half }, (_, i) => log((this.size + 1) / 2) - log(i + 1))
    const sum = raw.reduce((a, b) => a + b, 0)
    this.weights = raw.map((w) => w / sum)
    const mu = (this.effective = 1 / this.weights.reduce((a, w) => a + w * w, 0))
    const cs = (mu + 2) / (n + mu + 5)
    const c1 = 2 / ((n + 1.3) ** 2 + mu)
    this.rates = {
      cs,
      cc: (4 + mu / n) / (n + 4 + (2 * mu) / n),
      c1,
      cmu: Math.min(1 - c1, (2 * (mu - 2 + 1 / mu)) / ((n + 2) ** 2 + mu)),
      damping: 1 + 2 * Math.max(0, Math.sqrt((mu - 1) / (n + 1)) - 1) + cs,
      expected: Math.sqrt(n) * (1 - 1 / (4 * n) + 1 / (21 * n * n)),
    }
    this.covariance = identity(n)
    this.axes = identity(n)
    this.lengths = new Float64Array(n).fill(1)
    this.pathSpread = new Float64Array(n)
    this.pathShape = new Float64Array(n)
  }

  /** Whether it looks so near around one point that no more is found. */
  get isSettled(): boolean {
    return this.spread * Math.max(...this.lengths) < LEAST_SPREAD
  }

  /** The points of the next generation, each within 0…1. */
  ask(): number[][] {
    const { n, mean, spread, axes, lengths } = this
    this.points = Array.from({ length: this.size }, () => {
      const z = lengths.map((length) => length * this.normal())
      return Float64Array.from({ length: n }, (_, i) => {
        let x = mean[i]
        for (let k = 0; k < n; k++) x += spread * axes[i][k] * z[k]
        return x
      })
    })
    return this.points.map((p) => Array.from(p, inRange))
  }

  /** Takes the losses of the points that were asked for, in their order. */
  tell(losses: readonly number[]): void {
    const judged = this.points.map((point, i) => ({
      point,
      loss: losses[i] + OUTSIDE * point.reduce((sum, x) => sum + (x - inRange(x)) ** 2, 0),
    }))
    judged.sort((a, b) => a.loss - b.loss)
    this.generation++
    const steps = judged.slice(0, this.weights.length).map(({ point }) => this.stepTo(point))
    const step = Float64Array.from({ length: this.n }, (_, i) =>
      steps.reduce((sum, s, k) => sum + this.weights[k] * s[i], 0),
    )
    for (let i = 0; i < this.n; i++) this.mean[i] += this.spread * step[i]
    this.follow(step)
    this.shape(steps)
    const length = Math.sqrt(this.pathSpread.reduce((sum, x) => sum + x * x, 0))
    const { cs, damping, expected } = this.rates
    this.spread *= exp(Math.min(1, (cs / damping) * (length / expected - 1)))
    this.resolve()
  }

  private stepTo(point: Float64Array): Float64Array {
    return point.map((x, i) => (x - this.mean[i]) / this.spread)
  }

  /** The paths of the middle, by which spread and shape learn whether steps go one way. */
  private follow(step: Float64Array): void {
    const { n, axes, lengths, pathSpread, pathShape, effective } = this
    const { cs, cc, expected } = this.rates
    // C^(-1/2) · step
    const along = Float64Array.from({ length: n }, (_, k) => {
      let sum = 0
      for (let i = 0; i < n; i++) sum += axes[i][k] * step[i]
      return sum / lengths[k]
    })
    const s = Math.sqrt(cs * (2 - cs) * effective)
    for (let i = 0; i < n; i++) {
      let x = 0
      for (let k = 0; k < n; k++) x += axes[i][k] * along[k]
      pathSpread[i] = (1 - cs) * pathSpread[i] + s * x
    }
    const length = Math.sqrt(pathSpread.reduce((sum, x) => sum + x * x, 0))
    const grown = Math.sqrt(1 - pow(1 - cs, 2 * this.generation))
    const isSteady = length / grown < (1.4 + 2 / (n + 1)) * expected
    const c = isSteady ? Math.sqrt(cc * (2 - cc) * effective) : 0
    for (let i = 0; i < n; i++) pathShape[i] = (1 - cc) * pathShape[i] + c * step[i]
  }

  private shape(steps: readonly Float64Array[]): void {
    const { n, covariance, pathShape, weights } = this
    const { c1, cmu } = this.rates
    for (let i = 0; i < n; i++)
      for (let j = 0; j <= i; j++) {
        let among = 0
        for (let k = 0; k < weights.length; k++) among += weights[k] * steps[k][i] * steps[k][j]
        const value = (1 - c1 - cmu) * covariance[i][j] + c1 * pathShape[i] * pathShape[j] + cmu * among
        covariance[i][j] = covariance[j][i] = value
      }
  }

  /** Axes and their lengths: eigenvectors of the covariance, and the roots of its eigenvalues. */
  private resolve(): void {
    const { values, vectors } = eigen(this.covariance)
    this.axes = vectors
    this.lengths = values.map((v) => Math.sqrt(Math.max(1e-12, v)))
  }

  /** A normally distributed number (Box & Muller, *Generation of Random Normal Deviates*, 1958). */
  private normal(): number {
    const [u, v] = [this.random.next(), this.random.next()]
    return Math.sqrt(-2 * log(Math.max(1e-12, u))) * sinCycles(v)
  }
}

const inRange = (x: number): number => Math.min(1, Math.max(0, x))

const identity = (n: number): Float64Array[] =>
  Array.from({ length: n }, (_, i) => Float64Array.from({ length: n }, (__, k) => (i === k ? 1 : 0)))

/** Sweeps of the matrix at most; a few are enough. */
const SWEEPS = 30

/**
 * Eigenvalues and eigenvectors, as columns, of a symmetric matrix by the cyclic method of Jacobi (Golub & Van
 * Loan, *Matrix Computations*, 2013).
 */
export function eigen(matrix: readonly Float64Array[]): { values: Float64Array; vectors: Float64Array[] } {
  const n = matrix.length
  const a = matrix.map((row) => row.slice())
  const v = identity(n)
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    let off = 0
    for (let p = 0; p < n; p++) for (let q = 0; q < p; q++) off += a[p][q] ** 2
    if (off < 1e-24) break
    for (let p = 0; p < n; p++) for (let q = p + 1; q < n; q++) rotate(a, v, p, q)
  }
  return { values: Float64Array.from({ length: n }, (_, i) => a[i][i]), vectors: v }
}

/** Turns two axes so that the number where they cross becomes 0. */
function rotate(a: Float64Array[], v: Float64Array[], p: number, q: number): void {
  if (a[p][q] === 0) return
  const n = a.length
  const angle = (a[q][q] - a[p][p]) / (2 * a[p][q])
  const t = (angle >= 0 ? 1 : -1) / (Math.abs(angle) + Math.sqrt(angle * angle + 1))
  const c = 1 / Math.sqrt(t * t + 1)
  const s = t * c
  for (let k = 0; k < n; k++) {
    const [x, y] = [a[k][p], a[k][q]]
    a[k][p] = c * x - s * y
    a[k][q] = s * x + c * y
  }
  for (let k = 0; k < n; k++) {
    const [x, y] = [a[p][k], a[q][k]]
    a[p][k] = c * x - s * y
    a[q][k] = s * x + c * y
  }
  for (let k = 0; k < n; k++) {
    const [x, y] = [v[k][p], v[k][q]]
    v[k][p] = c * x - s * y
    v[k][q] = s * x + c * y
  }
}
