/**
 * What an exported chain is made of: in a page it makes nodes, and the same file, loaded as an audio worklet,
 * plays them. `oleaje:chain` is the chain itself, put in when it is exported.
 */
import { CHAIN_BLOCK, ChainPlayer } from '@oleaje/core/chain-module/chain-player'
import type { AudioData } from '@oleaje/core/contract/audio'
import { chain, sounds } from 'oleaje:chain'

const PROCESSOR = `oleaje ${chain.project.id} ${chain.name} ${chain.form}`

/** What the page tells the player. */
type Message =
  | { readonly type: 'note'; readonly pitch: number; readonly velocity: number; readonly time: number }
  | { readonly type: 'tempo'; readonly tempo: number }
  | { readonly type: 'restart'; readonly beat: number }

if (typeof AudioWorkletProcessor !== 'undefined') register()

function register(): void {
  class ChainProcessor extends AudioWorkletProcessor {
    static get parameterDescriptors() {
      return chain.macros.map(({ key, value }) => ({
        name: key,
        defaultValue: value,
        minValue: 0,
        maxValue: 1,
        automationRate: 'k-rate' as const,
      }))
    }
    private readonly player: ChainPlayer
    private readonly values = Float64Array.from(chain.macros, (m) => Math.fround(m.value))
    private isOver = false

    constructor({ processorOptions }: { processorOptions: { sounds: Record<string, AudioData> } }) {
      super()
      this.player = new ChainPlayer(chain, sampleRate, (hash) => processorOptions.sounds[hash] ?? null)
      this.port.postMessage({ latency: this.player.latency })
      this.port.onmessage = ({ data }: MessageEvent<Message | { type: 'end' }>) => {
        if (data.type === 'note')
          this.player.note(data.pitch, data.velocity, Math.max(0, (data.time - currentTime) * sampleRate))
        else if (data.type === 'tempo') this.player.setTempo(data.tempo)
        else if (data.type === 'restart') this.player.restart(data.beat)
        else this.isOver = true
      }
    }

    process(
      inputs: Float32Array[][],
      outputs: Float32Array[][],
      parameters: Record<string, Float32Array>,
    ): boolean {
      const [left, right] = outputs[0] ?? []
      if (!left || !right || left.length !== CHAIN_BLOCK) return !this.isOver
      const { values, player } = this
      for (let i = 0; i < values.length; i++) {
        const value = parameters[chain.macros[i]?.key ?? '']?.[0] ?? 0
        if (value === values[i]) continue
        values[i] = value
        player.setMacro(i, value)
      }
      const input = inputs[0] ?? []
      player.process(input[0], input[1] ?? input[0], left, right)
      return !this.isOver
    }
  }
  registerProcessor(PROCESSOR, ChainProcessor as unknown as AudioWorkletProcessorConstructor)
}

/** Name of the chain, and whether sound or notes drive it. */
export const { name, form } = chain

/** Macros: the key of each as a parameter, its name, and where it starts. */
export const macros = chain.macros.map(({ key, name: shown, value }) => ({ key, name: shown, value }))

/** Makes a node that plays the chain. The first call loads this file into the worklet of the context. */
export async function createChain(
  context: BaseAudioContext,
  options: { moduleUrl?: string; tempo?: number } = {},
): Promise<AudioWorkletNode> {
  await loaded(context, options.moduleUrl ?? import.meta.url)
  const node = new AudioWorkletNode(context, PROCESSOR, {
    numberOfInputs: chain.form === 'effect' ? 1 : 0,
    numberOfOutputs: 1,
    outputChannelCount: [2],
    channelCount: 2,
    channelCountMode: 'clamped-max',
    processorOptions: { sounds: unpacked() },
  })
  const send = (message: Message | { type: 'end' }): void => node.port.postMessage(message)
  const latency = await new Promise<number>((resolve, reject) => {
    node.port.onmessage = ({ data }: MessageEvent<{ latency: number }>) => resolve(data.latency)
    node.onprocessorerror = () => reject(new Error('The chain could not be started at this sample rate.'))
  })
  if (options.tempo !== undefined) send({ type: 'tempo', tempo: options.tempo })
  return Object.assign(node, {
    latency: latency / context.sampleRate,
    macros: Object.fromEntries(macros.map(({ key }) => [key, node.parameters.get(key)])),
    note: (pitch: number, velocity = 0.8, time = 0) => send({ type: 'note', pitch, velocity, time }),
    release: (pitch: number, time = 0) => send({ type: 'note', pitch, velocity: 0, time }),
    setTempo: (tempo: number) => send({ type: 'tempo', tempo }),
    restart: (beat = 0) => send({ type: 'restart', beat }),
    dispose: () => {
      send({ type: 'end' })
      node.disconnect()
    },
  })
}

const contexts = new WeakMap<BaseAudioContext, Promise<void>>()
function loaded(context: BaseAudioContext, url: string): Promise<void> {
  let loading = contexts.get(context)
  if (!loading) contexts.set(context, (loading = context.audioWorklet.addModule(url)))
  return loading
}

/** The sounds of the chain as numbers. */
function unpacked(): Record<string, AudioData> {
  const floats = (text: string): Float32Array<ArrayBuffer> =>
    new Float32Array(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer)
  return Object.fromEntries(
    Object.entries(sounds).map(([hash, { sampleRate: rate, channels }]) => [
      hash,
      { sampleRate: rate, channels: channels.map(floats) },
    ]),
  )
}
