import type { ModulatorDefinition } from './definition'
import { follower } from './follower'
import { lfo } from './lfo'
import { macro } from './macro'

/** Every modulator there is, in menu order. Adding one is a file beside these and a line here. */
export const modulators: readonly ModulatorDefinition[] = [
  lfo, follower, macro,
].map((d) => d as unknown as ModulatorDefinition)

const byId = new Map(modulators.map((d) => [d.id, d]))

export const modulatorDefinition = (id: string): ModulatorDefinition | undefined => byId.get(id)
