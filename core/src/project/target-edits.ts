import { soundsOf } from '../sources/index'
import { kindOf } from './nodes/index'
import { pathOf } from './param-path'
import type { ChainNode, Project, Target, Track } from './schema'
import { idsOf, nodesIn } from './walk'

export const sameTarget = (a: Target, b: Target): boolean => a.owner === b.owner && pathOf(a) === pathOf(b)

export const allNodes = (t: Track): ChainNode[] => [...nodesIn(t.a.nodes), ...(t.b ? nodesIn(t.b.nodes) : [])]

/** Keeps targets on their items when a lane grows or shrinks before them. */
export function shiftLaneTargets(p: Project, owner: string, lane: string, from: number, by: number): void {
  for (const { target } of [...p.links, ...p.controls])
    if (target.owner === owner && target.lane === lane && target.index !== undefined && target.index >= from)
      target.index += by
}

/**
 * Hashes of all sounds that something of a project plays: sources, takes, and effects in either state of a
 * chain.
 */
export function usedSounds(p: Project): Set<string> {
  const used = new Set<string>()
  for (const t of p.tracks) {
    if (t.source) for (const hash of soundsOf(t.source)) used.add(hash)
    for (const take of t.takes ?? []) {
      used.add(take.dry)
      used.add(take.wet)
    }
    for (const n of allNodes(t)) {
      const hash = kindOf(n).sound?.(n)
      if (hash) used.add(hash)
    }
  }
  return used
}

/** Takes sounds off the project's list that nothing plays any more; a step back lists them again. */
export function dropUnusedSounds(p: Project): void {
  const used = usedSounds(p)
  for (const hash of Object.keys(p.audio)) if (!used.has(hash)) delete p.audio[hash]
}

/** Links, controls and inputs whose modulator or target is gone from both states of every chain. */
export function dropStrayLinks(p: Project): void {
  const owners = new Set<string>()
  const sources = new Set<string>()
  for (const t of p.tracks) {
    owners.add(t.id)
    if (t.source) owners.add(t.source.id)
    for (const m of t.modulators) {
      owners.add(m.id)
      sources.add(m.id)
    }
    for (const n of allNodes(t)) {
      for (const id of idsOf(n)) owners.add(id)
    }
  }
  const buses = new Set(p.tracks.flatMap((t) => (t.kind === 'bus' ? [t.id] : [])))
  if (p.sends.some((s) => !owners.has(s.from) || !buses.has(s.to)))
    p.sends = p.sends.filter((s) => owners.has(s.from) && buses.has(s.to))
  for (const s of p.sends) owners.add(s.id)
  for (const t of p.tracks) if (typeof t.output === 'string' && !buses.has(t.output)) delete t.output
  // a link that goes takes those with it that move its amount
  for (const link of p.links) owners.add(link.id)
  for (let before = -1; before !== p.links.length;) {
    before = p.links.length
    for (let i = p.links.length - 1; i >= 0; i--) {
      const link = p.links[i]
      if (!link || (owners.has(link.target.owner) && sources.has(link.source))) continue
      p.links.splice(i, 1)
      owners.delete(link.id)
    }
  }
  if (p.controls.some((c) => !owners.has(c.target.owner)))
    p.controls = p.controls.filter((c) => owners.has(c.target.owner))
  for (const t of p.tracks)
    for (const m of t.modulators)
      if (m.inputs.some((i) => i && !owners.has(i.source)))
        m.inputs = m.inputs.map((i) => (i && owners.has(i.source) ? i : null))
}
