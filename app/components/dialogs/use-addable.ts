import type { EffectPreset } from '@oleaje/core/contract/effect'
import { effectDefinition, effects } from '@oleaje/core/effects/index'
import { effectFrom, newEffect, newId } from '@oleaje/core/project/new'
import { kindOf, nodeKinds } from '@oleaje/core/project/nodes/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { useSessionStorage } from '@vueuse/core'
import { computed } from 'vue'
import { type Manner, putNode } from '../../commands/put-node'
import type { Findable } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'
import { effectGroups } from './effect-groups'

/** Something that can be found and done, listed under a heading. */
export interface Found extends Findable {
  readonly id: string
  readonly glyph: string
  readonly group: string
  readonly run: (manner: Manner) => void
  /** The effect whose presets are listed beside it. */
  readonly type?: string
  /** The preset that it already is. */
  readonly preset?: EffectPreset
}

/** Headings of what can be added, in their order. */
export const addableGroups = ['Recent', ...Object.values(effectGroups), 'Containers', 'Kept', 'Presets']
/** Effects that are remembered as recent. */
const RECENT = 5

/**
 * All that can be added to a chain: effects and containers with the recent ones first, presets of the shelf,
 * and presets of effects.
 * @param chosen the preset that an effect is added with; null for its defaults
 */
export function useAddable(chosen: () => EffectPreset | null = () => null) {
  const session = useSession()
  const { shelf } = session
  const recent = useSessionStorage<string[]>('recent-effects', [])

  function addEffect(type: string, manner: Manner, preset: EffectPreset | null): void {
    recent.value = [type, ...recent.value.filter((t) => t !== type)].slice(0, RECENT)
    const node = preset ? effectFrom(type, preset) : newEffect(type)
    putNode(session, node, effectDefinition(type)?.name ?? type, manner)
  }
  function addContainer(kind: string, manner: Manner): void {
    const node = nodeKinds[kind]?.around?.make([], newId()) as ChainNode | undefined
    if (node) putNode(session, node, kindOf(node).title(node).toLowerCase(), manner)
  }

  const parts: readonly Found[] = [
    ...effects.map((e): Found => ({
      id: e.id,
      name: e.name,
      words: e.also ?? [],
      tip: e.tip,
      glyph: e.id,
      group: effectGroups[e.group],
      type: e.id,
      run: (m) => addEffect(e.id, m, chosen()),
    })),
    ...Object.values(nodeKinds).flatMap(({ kind, around }): Found[] =>
      around?.empty
        ? [
            {
              id: kind,
              name: around.label.replace(' around', ''),
              words: around.also,
              tip: around.empty,
              glyph: kind,
              group: 'Containers',
              run: (m) => addContainer(kind, m),
            },
          ]
        : [],
    ),
  ]
  const presets: readonly Found[] = effects.flatMap((e) =>
    (e.presets ?? []).map((p): Found => ({
      id: `${e.id}/${p.name}`,
      name: `${e.name}: ${p.name}`,
      words: [],
      tip: p.tip ?? `Preset of ${e.name}`,
      glyph: e.id,
      group: 'Presets',
      type: e.id,
      preset: p,
      run: (m) => addEffect(e.id, m, p),
    })),
  )
  const kept = computed(() =>
    shelf.items.value.map((k): Found => ({
      id: `kept ${k.id}`,
      name: k.preset.name,
      words: k.preset.tags,
      tip: 'On your shelf',
      glyph: 'kept',
      group: 'Kept',
      run: (m) => shelf.take(k.preset, m),
    })),
  )
  const again = computed(() =>
    recent.value
      .flatMap((id) => parts.find((f) => f.id === id) ?? [])
      .map((f) => ({ ...f, id: `recent ${f.id}`, group: 'Recent' })),
  )
  return { parts, presets, kept, again }
}

/** Sorts what is listed by its headings. */
export const byGroup = (found: readonly Found[], order: readonly string[]): Found[] =>
  [...found].sort((a, b) => order.indexOf(a.group) - order.indexOf(b.group))
