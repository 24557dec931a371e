import type { SourceDefinition } from '../contract/source'
import { inputSource } from './input'
import { loopSource } from './loop'
import { toneSource } from './tone'

/** Every kind of source there is, in menu order. */
export const sources: readonly SourceDefinition[] = [
  loopSource, toneSource, inputSource,
].map((d) => d as unknown as SourceDefinition)

const byId = new Map(sources.map((d) => [d.id, d]))

export const sourceDefinition = (id: string): SourceDefinition | undefined => byId.get(id)
