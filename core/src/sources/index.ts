import { sourcesBuiltIn } from './built-in'
import type { SourceDefinition } from '../contract/source'
import { offered } from '../contract/offered-parts'

/** Every kind of source there is: those that are built in, and those that the page offers. */
export const sources: readonly SourceDefinition[] = [...sourcesBuiltIn, ...offered('sources')]

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
