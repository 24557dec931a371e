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
export declare const form: 'effect' | 'notes'
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

/**
 * A page that plays an exported module, to be served beside it.
 * @param template with words in capitals for the name, the file and the tempo
 */
export const pageOf = ({ name, project }: ChainData, file: string, template: string): string =>
  template
    .replaceAll('NAME_OF_CHAIN', () => plain(name))
    .replaceAll('FILE_OF_CHAIN', () => file)
    .replaceAll('TEMPO_OF_CHAIN', () => String(project.tempo))
