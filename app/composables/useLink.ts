import { setLinkEnds } from '@oleaje/core/project/motion-edits'
import type { Link, Project } from '@oleaje/core/project/schema'
import { together } from '@oleaje/core/project/edit'
import {
  findTarget,
  linkEnds,
  linkValues,
  ownerName,
  paramName,
  targetOf,
} from '@oleaje/core/project/targets'
import { trackOfOwner } from '@oleaje/core/project/routing'
import { findOwner, trackOf, type Owner } from '@oleaje/core/project/walk'
import { pathOf } from '@oleaje/core/project/param-path'
import { amount, percent, seconds, semitones } from '@oleaje/core/units/parameter'
import { toNormalized } from '@oleaje/core/units/scale'
import { formatValue, parseValue } from '@oleaje/core/units/text'
import type { useSession } from './useSession'

/** Specs of the typed fields of a link. */
export const linkSpecs = {
  curve: percent('Bend', { min: -1, default: 0 }),
  slew: seconds('Slew', { min: 0, max: 10, default: 0 }),
  amount: percent('Amount', { default: 1 }),
  transpose: semitones('Transposed', { min: -96, max: 96, default: 0 }),
  fan: {
    phase: amount('Fan: phase', { min: -8, max: 8, default: 0 }),
    rate: amount('Fan: rate', { min: -4, max: 4, default: 0 }),
    random: amount('Fan: random', { min: 0, max: 1, default: 0 }),
  },
} as const

/** How the range of a link lies, by its mode. */
export const linkModes = { floating: 'follows base', fixed: 'absolute', pitch: 'pitch' } as const

/** A link as people read it: from what, to what, and its two ends in the target's own unit. */
export interface LinkView {
  readonly link: Link
  readonly source: string
  readonly letter: string
  readonly hue: number
  readonly owner: string
  readonly param: string
  readonly track: string
  readonly from: string
  readonly to: string
}

/** All links of a project as people read them, those left out whose target is not heard now. */
export function readLinks(project: Project): LinkView[] {
  const modulators = new Map(project.tracks.flatMap((t) => t.modulators.map((m) => [m.id, m] as const)))
  // many links go to few owners, and finding one walks the project
  const owners = new Map<string, Owner | undefined>()
  return project.links.flatMap((link) => {
    const { target } = link
    if (!owners.has(target.owner)) owners.set(target.owner, findOwner(project, target.owner))
    const holder = owners.get(target.owner)
    const found = holder && targetOf(holder, target)
    const m = modulators.get(link.source)
    if (!found || !m) return []
    const home = trackOfOwner(project, found.owner)
    const owner =
      found.owner.kind === 'link'
        ? linkName(project, found.owner.link)
        : found.owner.kind === 'send'
          ? `${home?.name ?? ''} to ${trackOf(project, found.owner.send.to)?.name ?? ''}`
          : ownerName(found.owner)
    // written out for those that are looked at only
    const end = (which: 'from' | 'to'): string =>
      formatValue(found.spec, linkValues({ ...link, amount: 1 }, found.spec, found.base)[which])
    return [
      {
        link,
        source: m.name,
        letter: m.letter,
        hue: m.hue,
        owner,
        param: paramName(found.owner, pathOf(target)),
        track: found.owner.kind === 'track' ? '' : (home?.name ?? ''),
        get from() {
          return end('from')
        },
        get to() {
          return end('to')
        },
      },
    ]
  })
}

function linkName(project: Project, link: Link): string {
  const target = findTarget(project, link.target)
  const m = project.tracks.flatMap((t) => t.modulators).find((x) => x.id === link.source)
  return `link ${m?.letter ?? '?'} → ${target ? paramName(target.owner, pathOf(link.target)).toLowerCase() : 'nothing'}`
}

/**
 * Types one end of several links, each in its own unit. @throws ValueTextError for what makes no sense to the
 * first of them
 */
export function typeEnds(
  { doc }: Pick<ReturnType<typeof useSession>, 'doc'>,
  ids: readonly string[],
  which: 'from' | 'to',
  text: string,
): void {
  const edits = ids.flatMap((id, i) => {
    const link = doc.project?.links.find((l) => l.id === id)
    const found = doc.project && link && findTarget(doc.project, link.target)
    if (!link || !found) return []
    const whole = { ...link, amount: 1 }
    const ends = linkEnds(whole, found.spec, found.base)
    try {
      const place = toNormalized(
        found.spec,
        parseValue(found.spec, text, linkValues(whole, found.spec, found.base)[which]),
      )
      return [setLinkEnds(id, which === 'from' ? place : ends.from, which === 'to' ? place : ends.to)]
    } catch (error) {
      // a value that fits the one typed in may mean nothing to another of the chosen
      if (i === 0) throw error
      return []
    }
  })
  doc.edit(ids.length > 1 ? `Set ${ids.length} ranges` : 'Set range', together(...edits))
}
