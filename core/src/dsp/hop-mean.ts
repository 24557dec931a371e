/**
 * Mean of a value over the samples of a hop. What is read once for each hop then acts at the right time on
 * average, wherever within the hop it jumps.
 */
export class HopMean {
  /** First value of this hop, what the others differ from it in sum, and how many there were. */
  private readonly state = new Float64Array(3)

  reset(): void {
    this.state.fill(0)
  }

  take(values: Float64Array): void {
    const { state } = this
    if (state[2] === 0) state[0] = values[0]
    const first = state[0]
    let sum = 0
    for (let i = 0; i < values.length; i++) sum += values[i] - first
    state[1] += sum
    state[2] += values.length
  }

  /** The mean since it was read last; exact where the value stood still. */
  read(): number {
    const { state } = this
    const mean = state[0] + (state[2] > 0 ? state[1] / state[2] : 0)
    state[1] = 0
    state[2] = 0
    return mean
  }
}
