import type { Sound } from '../contract/messages'
import { bufferOf } from './beside'

/** Typical round-trip latency of hardware. */
const CABLE_SECONDS = 0.0137

/** A stream from a device, a sound in a loop as from the other end of a line, or a cable from the output. */
export type InputSignal = MediaStream | Sound | 'cable'

/** Connects a live input to the engine's node. */
export class InputNode {
  /** The requested settings, also before there is a context. */
  input: InputSignal | null = null
  private node: AudioNode | null = null
  /** Pulls the simulated cable out of the output. */
  private unplug: (() => void) | null = null

  disconnect(): void {
    this.unplug?.()
    this.node?.disconnect()
    if (this.node instanceof AudioBufferSourceNode) this.node.stop()
    this.forget()
  }

  /** The context that it was in is gone. */
  forget(): void {
    this.unplug = this.node = null
  }

  connect(input: InputSignal, context: AudioContext, engine: AudioNode): void {
    this.node = this.made(input, context, engine)
    this.node.connect(engine)
  }

  private made(input: InputSignal, context: AudioContext, engine: AudioNode): AudioNode {
    if (input instanceof MediaStream) return context.createMediaStreamSource(input)
    if (input !== 'cable') {
      const source = context.createBufferSource()
      source.buffer = bufferOf(context, input)
      source.loop = true
      source.start()
      return source
    }
    const cable = context.createDelay(1)
    cable.delayTime.value = CABLE_SECONDS
    engine.connect(cable)
    this.unplug = () => {
      engine.disconnect(cable)
    }
    return cable
  }
}
