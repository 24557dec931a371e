import type { EffectDefinition } from './effect'
import type { ModulatorDefinition } from './modulator'
import type { SourceDefinition } from './source'

/**
 * Parts that come from outside. Whoever embeds the app, or tries a part that is being made, sets them on the global object as
 * `oleajeParts` before the page, the worklet and the workers start; they stand behind the app's own in every list.
 */
export interface OfferedParts {
  readonly effects?: readonly EffectDefinition[]
  readonly modulators?: readonly ModulatorDefinition[]
  readonly sources?: readonly SourceDefinition[]
  /** What each kind of node is, and how it sounds: a NodeKind and its NodeEngine. */
  readonly nodes?: readonly { readonly kind: unknown; readonly engine: unknown }[]
}

export const offered = <K extends keyof OfferedParts>(kind: K): NonNullable<OfferedParts[K]> | readonly [] =>
  (globalThis as { oleajeParts?: OfferedParts }).oleajeParts?.[kind] ?? []
