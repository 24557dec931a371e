import { morphLinks } from '@oleaje/core/project/morph'
import { gaugeKey, pathOf } from '@oleaje/core/project/param-path'
import type { Modulator, Project } from '@oleaje/core/project/schema'

/** A morph that moves a parameter, and how far, as places on its range. */
export interface Morphed {
  readonly modulator: Modulator
  readonly ends: { readonly from: number; readonly to: number }
}

/** What morphs of a project move, by gauge; worked out once for each state of it. */
const known = new WeakMap<Project, ReadonlyMap<string, readonly Morphed[]>>()

/** The morphs that move a parameter. */
export function morphedAt(project: Project | null, key: string): readonly Morphed[] {
  if (!project) return none
  let found = known.get(project)
  if (!found) known.set(project, (found = allOf(project)))
  return found.get(key) ?? none
}
const none: readonly Morphed[] = []

function allOf(project: Project): ReadonlyMap<string, readonly Morphed[]> {
  const modulators = new Map(project.tracks.flatMap((t) => t.modulators.map((m) => [m.id, m] as const)))
  const found = new Map<string, Morphed[]>()
  for (const link of morphLinks(project)) {
    const modulator = modulators.get(link.source)
    if (!modulator) continue
    const key = gaugeKey(link.target.owner, pathOf(link.target))
    const list = found.get(key) ?? []
    const at = list.findIndex((x) => x.modulator === modulator)
    const { from, to } = list[at]?.ends ?? { from: 1, to: 0 }
    const ends = { from: Math.min(from, link.from), to: Math.max(to, link.to) }
    if (at < 0) list.push({ modulator, ends })
    else list[at] = { modulator, ends }
    found.set(key, list)
  }
  return found
}

/** Hue of the first that moves a parameter; null where nothing does. */
export const hueOfFirst = (
  links: readonly { readonly modulator?: Modulator }[],
  morphs: readonly Morphed[],
): number | null => (links.length ? (links[0]?.modulator?.hue ?? 0) : (morphs[0]?.modulator.hue ?? null))
