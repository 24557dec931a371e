import type { SourceDefinition } from '../contract/source'
import { inputSource } from './input'
import { kitSource } from './kit'
import { loopSource } from './loop'
import { offered } from '../contract/offered-parts'
import { playedSource } from './played'
import { toneSource } from './tone'
import { trackSource } from './track'

/** Every kind of source there is, in menu order. Adding one is a file beside these and a line here. */
export const sources: readonly SourceDefinition[] = [
  loopSource,
  playedSource,
  kitSource,
  toneSource,
  inputSource,
  trackSource,
  ...offered('sources'),
].map((d) => d as unknown as SourceDefinition)

const byId = new Map(sources.map((d) => [d.id, d]))

/** Hashes of all sounds that a source plays. */
export const soundsOf = (source: {
  readonly type: string
  readonly audio: string | null
  readonly data?: Readonly<Record<string, unknown>>
}): string[] =>
  [source.audio, ...(sourceDefinition(source.type)?.sounds?.(source.data ?? {}) ?? [])].filter(
    (hash) => hash !== null,
  )

export const sourceDefinition = (id: string): SourceDefinition | undefined => byId.get(id)

/** The source that a sound becomes by default. */
export const usualSource = sources.find((d) => d.fromSound)?.id ?? ''
