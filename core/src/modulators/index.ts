import { modulatorsBuiltIn } from './built-in'
import { offered } from '../contract/offered-parts'
import type { ModulatorDefinition } from '../contract/modulator'

/** Every modulator there is: those that are built in, and those that the page offers. */
export const modulators: readonly ModulatorDefinition[] = [...modulatorsBuiltIn, ...offered('modulators')]

const byId = new Map(modulators.map((d) => [d.id, d]))

export const modulatorDefinition = (id: string): ModulatorDefinition | undefined => byId.get(id)
