import type { EffectDefinition } from './definition'
import { compressor } from './compressor'
import { delay } from './delay'
import { drive } from './drive'
import { filter } from './filter'
import { gainEffect } from './gain'
import { reverb } from './reverb'

/** Every effect there is, in the order in which menus list them. Adding one is a file beside these and a line here. */
export const effects: readonly EffectDefinition[] = [
  gainEffect, filter, drive, compressor, delay, reverb,
].map((d) => d as unknown as EffectDefinition)

const byId = new Map(effects.map((d) => [d.id, d]))

export const effectDefinition = (id: string): EffectDefinition | undefined => byId.get(id)
