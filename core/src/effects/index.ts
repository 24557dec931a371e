import { effectsBuiltIn } from './built-in'
import type { EffectDefinition } from '../contract/effect'
import { offered } from '../contract/offered-parts'

/** Every effect there is: those that are built in, and those that the page offers. */
export const effects: readonly EffectDefinition[] = [...effectsBuiltIn, ...offered('effects')]

const byId = new Map(effects.map((d) => [d.id, d]))

export const effectDefinition = (id: string): EffectDefinition | undefined => byId.get(id)
