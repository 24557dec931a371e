/** Coefficients of the prediction: six tones or so, or the colour of a noise. */
const ORDER = 12
/** Share of the energy below which a prediction is as good as exact. */
const EXACT = 1e-12

/** Samples that a continuation is told from, at most. */
export const PAST = 256

// one signal is continued after the other, so room for one is enough
const forward = new Float64Array(PAST)
const backward = new Float64Array(PAST)
const weights = new Float64Array(ORDER + 1)
const before = new Float64Array(ORDER + 1)

/**
 * How a signal would have gone on: linear prediction by Burg's method ("Maximum entropy spectral analysis",
 * 1975), whose filters are always stable, so that tones go on as they were and noise dies away. Takes some 50
 * µs.
 * @param past the last samples, {@link PAST} at most @param next gets the next ones, `frames` of them
 */
export function continuation(past: Float64Array, next: Float64Array, frames = next.length): void {
  const used = fit(past)
  const n = past.length
  for (let k = 0; k < frames; k++) {
    let sum = 0
    for (let j = 1; j <= used; j++) sum -= weights[j] * (k >= j ? next[k - j] : past[n + k - j])
    next[k] = sum
  }
}

/** Works out the weights of the samples before; gives how many there are. */
function fit(past: Float64Array): number {
  const n = past.length
  forward.set(past)
  backward.set(past)
  weights.fill(0)
  weights[0] = 1
  let whole = 0
  for (let i = 0; i < n; i++) whole += past[i] * past[i]
  for (let m = 1; m <= ORDER; m++) {
    let product = 0
    let energy = 0
    for (let i = m; i < n; i++) {
      const f = forward[i],
        b = backward[i - 1]
      product += f * b
      energy += f * f + b * b
    }
    // also where it is no number
    if (!(energy > EXACT * whole)) return m - 1
    const reflection = (-2 * product) / energy
    before.set(weights)
    for (let j = 1; j <= m; j++) weights[j] = before[j] + reflection * before[m - j]
    for (let i = n - 1; i >= m; i--) {
      const f = forward[i],
        b = backward[i - 1]
      forward[i] = f + reflection * b
      backward[i] = b + reflection * f
    }
  }
  return ORDER
}
