import type { ChainData } from './chain-export'

/** Text within a comment or an HTML page. */
const plain = (text: string): string =>
  text.replace(/[<>&*/\\]/g, (c) => ({ '<': '‹', '>': '›', '&': '+' })[c] ?? '')

/** TypeScript declarations of an exported module. */
export function typesOf({ name, form, macros }: ChainData): string {
  const keys = macros.map(
    (m) =>
      `  /** ${plain(m.name)}, 0 to 1; starts at ${Number(m.value.toFixed(4))}. */\n  readonly '${m.key}': AudioParam`,
  )
  const notes =
    form === 'notes'
      ? `
  /** Plays a note: MIDI pitch, velocity 0 to 1, and the time of the context at which it sounds. */
  note(pitch: number, velocity?: number, time?: number): void
  /** Ends a note. */
  release(pitch: number, time?: number): void`
      : `
  /** Triggers envelopes and gates that follow notes: MIDI pitch, velocity 0 to 1, time of the context. */
  note(pitch: number, velocity?: number, time?: number): void
  /** Ends such a note. */
  release(pitch: number, time?: number): void`
  return `/** ${plain(name)}, a chain exported from Oleaje. */

/** The macros of the chain. Each is an audio parameter, to be set, ramped or modulated. */
export interface ChainMacros {
${keys.join('\n')}
}

export interface ChainNode extends AudioWorkletNode {
  readonly macros: ChainMacros
  /** Seconds by which the output is late. */
  readonly latency: number${notes}
  /** Tempo of synced times and modulators in bpm, 20 to 300. */
  setTempo(tempo: number): void
  /** Starts synced modulators again, from a beat on. */
  restart(beat?: number): void
  /** Ends the node for good. */
  dispose(): void
}

export declare const name: string
export declare const macros: readonly { readonly key: keyof ChainMacros; readonly name: string; readonly value: number }[]

/**
 * Makes a node that plays the chain${form === 'effect' ? ' on what is connected to it' : ''}.
 * @param options.moduleUrl address of this module, where a bundler has moved it
 * @param options.tempo in bpm
 */
export declare function createChain(
  context: BaseAudioContext,
  options?: { moduleUrl?: string; tempo?: number },
): Promise<ChainNode>
`
}

/** A page that plays an exported module, to be served beside it. */
export const pageOf = ({ name, form, project }: ChainData, file: string): string => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${plain(name)}</title>
<style>
  body { max-width: 34rem; margin: 3rem auto; padding: 0 1rem; font: 16px/1.5 system-ui, sans-serif; }
  label { display: grid; grid-template-columns: 9rem 1fr 3rem; gap: 1rem; align-items: center; margin: .5rem 0; }
  button { font: inherit; padding: .3rem 1rem; }
</style>
<h1>${plain(name)}</h1>
<p>Serve this folder from any web server and open this page. A file opened directly cannot load modules.</p>
<p>
  <button id="play">Play</button>${
    form === 'effect'
      ? '\n  <input id="file" type="file" accept="audio/*" aria-label="Sound to play through the chain">'
      : ''
  }
</p>
<div id="macros"></div>
<p id="says" role="status"></p>
<script type="module">
  import { createChain, macros } from './${file}'

  const says = document.getElementById('says')
  let context, chain, source
  async function start() {
    context = new AudioContext()
    chain = await createChain(context, { tempo: ${project.tempo} })
    chain.connect(context.destination)
    for (const { key, name } of macros) {
      const slider = document.getElementById(key)
      chain.macros[key].value = slider.value
    }
    says.textContent = \`Latency of the chain: \${(chain.latency * 1000).toFixed(1)} ms\`
  }
  for (const { key, name, value } of macros) {
    const label = document.createElement('label')
    label.innerHTML = '<span></span><input type="range" min="0" max="1" step="0.001"><output></output>'
    const [span, slider, output] = label.children
    span.textContent = name
    slider.id = key
    slider.value = value
    output.textContent = Math.round(value * 100) + ' %'
    slider.oninput = () => {
      output.textContent = Math.round(slider.value * 100) + ' %'
      if (chain) chain.macros[key].value = slider.value
    }
    document.getElementById('macros').append(label)
  }
${form === 'effect' ? effectScript : notesScript}
</script>
</html>
`

/** Plays a loop of soft hits, or a chosen file. */
const effectScript = `  // two seconds of soft hits, made here
  function hits() {
    const buffer = context.createBuffer(1, 2 * context.sampleRate, context.sampleRate)
    const data = buffer.getChannelData(0)
    for (const [at, hz] of [[0, 110], [0.5, 220], [0.75, 165], [1.25, 330], [1.5, 147]])
      for (let i = 0; i < 0.4 * context.sampleRate; i++)
        data[Math.floor(at * context.sampleRate) + i] +=
          0.4 * Math.exp((-9 * i) / context.sampleRate) * Math.sin((2 * Math.PI * hz * i) / context.sampleRate)
    return buffer
  }
  async function play(buffer) {
    source?.stop()
    source = new AudioBufferSourceNode(context, { buffer, loop: true })
    source.connect(chain)
    source.start()
  }
  const failed = (error) => (says.textContent = error.message)
  document.getElementById('play').onclick = async () => {
    try {
      if (!chain) await start()
      await context.resume()
      await play(hits())
    } catch (error) {
      failed(error)
    }
  }
  document.getElementById('file').onchange = async ({ target }) => {
    try {
      if (!chain) await start()
      await context.resume()
      await play(await context.decodeAudioData(await target.files[0].arrayBuffer()))
    } catch (error) {
      failed(error)
    }
  }`

/** Plays a few notes, one after the other. */
const notesScript = `  document.getElementById('play').onclick = async () => {
    try {
      if (!chain) await start()
      await context.resume()
      ;[48, 55, 60, 63, 67].forEach((pitch, i) => {
        chain.note(pitch, 0.8, context.currentTime + 0.05 + i * 0.3)
        chain.release(pitch, context.currentTime + 0.3 + i * 0.3)
      })
    } catch (error) {
      says.textContent = error.message
    }
  }`
