import { effectDefinition } from '@oleaje/core/effects/index'
import { effectFrom } from '@oleaje/core/project/new'
import type { Effect } from '@oleaje/core/project/schema'

/** An effect as one of its presets sets it up. */
export function presetEffect(
  type: string,
  name: string,
  id: string,
  more: Record<string, number> = {},
): Effect {
  const found = effectDefinition(type)?.presets?.find((p) => p.name === name)
  if (!found) throw new Error(`There is no preset “${name}” of ${type}.`)
  return effectFrom(type, { ...found, params: { ...found.params, ...more } }, id)
}
