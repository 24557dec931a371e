import type { EffectDefinition } from './effect'
import type { ModulatorDefinition } from './modulator'
import type { SourceDefinition } from './source'

/**
 * Parts that are not built into the app: for a host page, or for testing a part under development. A script
 * sets the global `oleajeParts` before the page, the worklet and the workers start. Lists show these parts
 * after the built-in ones.
 */
export interface OfferedParts {
  readonly effects?: readonly EffectDefinition[]
  readonly modulators?: readonly ModulatorDefinition[]
  readonly sources?: readonly SourceDefinition[]
  /** Kinds of nodes: a NodeKind and its NodeEngine each. */
  readonly nodes?: readonly { readonly kind: unknown; readonly engine: unknown }[]
}

export const offered = <K extends keyof OfferedParts>(kind: K): NonNullable<OfferedParts[K]> | readonly [] =>
  (globalThis as { oleajeParts?: OfferedParts }).oleajeParts?.[kind] ?? []
