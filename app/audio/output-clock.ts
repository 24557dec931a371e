/**
 * Seconds without progress after which an output that should run counts as missing, and how often its clock
 * is looked at, in ms.
 */
const PATIENCE = 1
const LOOK_MS = 250

/**
 * Watches whether the clock of an audio context runs. A context that says it runs may stand still (no output
 * device), and one that stops later does not always say so, so that its clock decides. A context that has
 * been stopped from outside is resumed as long as it is wanted.
 */
export class OutputClock {
  private context: Pick<AudioContext, 'state' | 'currentTime' | 'resume'> | null = null
  private timer: ReturnType<typeof setInterval> | undefined
  private last = 0
  /** Looks without progress. */
  private still = 0
  /** Whether sound has been asked for, so that the clock should run. */
  private wanted = false

  /** @param tell called with the new state whenever the state changes */
  constructor(private readonly tell: (state: 'running' | 'suspended' | 'stalled') => void) {}

  /** Watches another context; none for null. */
  watch(context: Pick<AudioContext, 'state' | 'currentTime' | 'resume'> | null): void {
    clearInterval(this.timer)
    this.context = context
    this.still = 0
    this.state = ''
    if (!context) {
      this.wanted = false
      return
    }
    this.last = context.currentTime
    this.timer = setInterval(() => {
      this.step()
    }, LOOK_MS)
    if (this.wanted) this.resume()
    this.look()
  }
  private state = ''

  /** Sound is wanted from now on: the context is resumed, now and whenever it has stopped. */
  wake(): void {
    this.wanted = true
    this.still = 0
    this.resume()
    this.look()
  }

  /** Tells the state where it has changed. */
  look(): void {
    const { context } = this
    if (!context) return
    const stalled = this.wanted && this.still * LOOK_MS >= PATIENCE * 1000
    const state = stalled ? 'stalled' : context.state === 'running' ? 'running' : 'suspended'
    if (state === this.state) return
    this.state = state
    this.tell(state)
  }

  private step(): void {
    const { context } = this
    if (!context) return
    const now = context.currentTime
    this.still = now === this.last ? this.still + 1 : 0
    this.last = now
    if (this.wanted && context.state !== 'running') this.resume()
    this.look()
  }

  private resume(): void {
    // a browser that waits for a gesture or a device answers late or with an error; the clock tells in any
    // case
    if (this.context?.state !== 'running') void this.context?.resume().catch(() => {})
  }
}
