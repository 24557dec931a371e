import { type Buffering, buffers } from './buffering'
import { ClockMap } from './clock-map'

/** The audio context, the worklet's node in it, and what was asked for when it was opened. */
export class ContextOutput {
  context: AudioContext | null = null
  node: AudioWorkletNode | null = null
  /** Rate at which the engine works: the project's, whatever the context's is. */
  rate = 0
  /** How much sound is asked to be kept ready. */
  buffer: Buffering = 'short'
  readonly clocks = new ClockMap()
  private opened: Buffering = 'short'
  private sink = ''

  /** Whether it was opened with the requested settings. */
  isFor(rate: number): boolean {
    return this.rate === rate && this.opened === this.buffer
  }

  async open(rate: number): Promise<AudioContext> {
    const context = openContext(rate, buffers[this.buffer])
    this.context = context
    this.opened = this.buffer
    if (this.sink) await sinkOf(context)?.(this.sink).catch(() => {})
    return context
  }

  /** Closes a context, after which the page has room for another. */
  close(context: AudioContext): Promise<void> {
    if (this.context === context) this.context = this.node = null
    context.onstatechange = null
    return context.close().catch(() => {})
  }

  /**
   * Has sound come out of another device; the usual one for an empty id. False where the browser cannot, or
   * the device is not there.
   */
  async setSink(device: string): Promise<boolean> {
    this.sink = device
    const set = this.context && sinkOf(this.context)
    return set
      ? set(device).then(
          () => true,
          () => false,
        )
      : this.context === null
  }

  /** Milliseconds from input to output, as far as the browser knows. */
  get latency(): number {
    const c = this.context
    return c ? (c.baseLatency + (c.outputLatency || 0)) * 1000 : 0
  }
}

/** A context at a rate; at the device's own where the browser refuses that, and then the worklet converts. */
function openContext(sampleRate: number, latencyHint: AudioContextLatencyCategory | number): AudioContext {
  try {
    return new AudioContext({ sampleRate, latencyHint })
  } catch {
    return new AudioContext({ latencyHint })
  }
}

/** Newer browsers let an output be chosen. */
function sinkOf(context: AudioContext): ((id: string) => Promise<void>) | null {
  const own = context as AudioContext & { setSinkId?: (id: string) => Promise<void> }
  return own.setSinkId ? (id) => own.setSinkId?.(id) ?? Promise.resolve() : null
}
