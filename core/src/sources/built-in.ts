import { inputSource } from './input'
import { kitSource } from './kit'
import { loopSource } from './loop'
import { playedSource } from './played'
import { toneSource } from './tone'
import { trackSource } from './track'
import type { SourceDefinition } from '../contract/source'

/** Every kind of source there is, in menu order. Adding one is a file beside these and a line here. */
export const sourcesBuiltIn: readonly SourceDefinition[] = [
  loopSource,
  playedSource,
  kitSource,
  toneSource,
  inputSource,
  trackSource,
].map((d) => d as unknown as SourceDefinition)
