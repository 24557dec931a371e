import { freeName } from './free-name'
import { modulatorDefinition } from '../modulators/index'
import { toNormalized } from '../units/scale'
import type { Edit } from './edit'
import { newId, newLink, newModulator, newSeed } from './new'
import type { Link, Listen, Modulator, Project, Target } from './schema'
import { dropStrayLinks, sameTarget } from './target-edits'
import { endsToStore, findTarget, followsPitch, linkEnds } from './targets'
import { findOwner, trackOf } from './walk'

/** The next free badge letter of a project: a … z, then aa, ab … */
export function nextLetter(p: Project): string {
  const taken = new Set(p.tracks.flatMap((t) => t.modulators.map((m) => m.letter)))
  for (let i = 0; ; i++) {
    const letter =
      i < 26
        ? String.fromCharCode(97 + i)
        : String.fromCharCode(96 + Math.floor(i / 26)) + String.fromCharCode(97 + (i % 26))
    if (!taken.has(letter)) return letter
  }
}

export const addModulator =
  (
    track: string,
    type: string,
    o: { id?: string; name?: string; params?: Record<string, number>; listens?: Listen | null } = {},
  ): Edit =>
  (p) => {
    const t = trackOf(p, track)
    const definition = modulatorDefinition(type)
    if (!t || !definition) return
    const letter = nextLetter(p)
    const count = p.tracks.flatMap((x) => x.modulators).filter((m) => m.type === type).length
    const used = p.tracks.flatMap((x) => x.modulators).length
    const m = newModulator(
      type,
      o.name ?? `${definition.name}${count ? ` ${count + 1}` : ''}`,
      letter,
      used % 8,
      o.params,
      o.id,
    )
    m.listens = o.listens ?? (definition.listens ? { track, point: 'before' } : null)
    t.modulators.push(m)
  }

export const removeModulator =
  (id: string): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'modulator') return
    found.track.modulators.splice(found.track.modulators.indexOf(found.modulator), 1)
    dropStrayLinks(p)
  }

/** A copy of a modulator with its own letter, with or without copies of the links it drives. */
export const duplicateModulator =
  (id: string, withLinks: boolean, copyId = newId()): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'modulator') return
    const others = p.tracks.flatMap((x) => x.modulators)
    const copy: Modulator = {
      ...(JSON.parse(JSON.stringify(found.modulator)) as Modulator),
      id: copyId,
      seed: newSeed(copyId),
      letter: nextLetter(p),
      hue: others.length % 8,
      name: freeName(
        found.modulator.name,
        others.map((m) => m.name),
      ),
    }
    found.track.modulators.splice(found.track.modulators.indexOf(found.modulator) + 1, 0, copy)
    if (withLinks)
      for (const link of p.links.filter((l) => l.source === id))
        p.links.push({ ...(JSON.parse(JSON.stringify(link)) as Link), id: newId(), source: copyId })
  }

/** Lets a modulator work on another's output; null takes it away. A modulator never works on itself. */
export const setInput =
  (modulator: string, slot: number, input: { source: string; output: string } | null): Edit =>
  (p) => {
    const found = findOwner(p, modulator)
    if (found?.kind !== 'modulator' || slot < 0 || slot > 3 || input?.source === modulator) return
    const { inputs } = found.modulator
    while (inputs.length <= slot) inputs.push(null)
    inputs[slot] = input
  }

export const setListens =
  (modulator: string, listen: Listen | null): Edit =>
  (p) => {
    const found = findOwner(p, modulator)
    if (found?.kind === 'modulator') found.modulator.listens = listen
  }

/**
 * Links a modulator to a parameter, with its ends at two places of the range. A modulator that moves the
 * parameter already gets a new range instead of a second link.
 */
export const addLink =
  (
    source: string,
    target: Target,
    from: number,
    to: number,
    o: { id?: string; mode?: Link['mode']; output?: string } = {},
  ): Edit =>
  (p) => {
    const found = findTarget(p, target)
    const modulator = findOwner(p, source)
    if (!found || modulator?.kind !== 'modulator') return
    const outputs = modulatorDefinition(modulator.modulator.type)?.outputs ?? []
    const output = o.output && outputs.includes(o.output) ? o.output : (outputs[0] ?? 'value')
    const stepped = found.spec.unit === 'choice' || found.spec.unit === 'toggle'
    const mode = stepped
      ? 'fixed'
      : (o.mode ?? (output === 'pitch' && followsPitch(found.spec) ? 'pitch' : 'floating'))
    const ends = endsToStore(mode, found.spec, found.base, from, to)
    const known = p.links.find(
      (l) => l.source === source && l.output === output && sameTarget(l.target, target),
    )
    if (known) Object.assign(known, ends, { mode })
    else p.links.push({ ...newLink(source, output, target, ends.from, ends.to, o.id), mode })
  }

/** The editable fields of a link. */
export type LinkChange = Partial<
  Pick<
    Link,
    | 'from'
    | 'to'
    | 'amount'
    | 'curve'
    | 'law'
    | 'slewUp'
    | 'slewDown'
    | 'quantise'
    | 'fan'
    | 'transpose'
    | 'on'
  >
>

export const updateLink = (id: string, change: LinkChange): Edit => updateLinks([id], change)

export const updateLinks =
  (ids: readonly string[], change: LinkChange): Edit =>
  (p) => {
    for (const link of p.links) if (ids.includes(link.id)) Object.assign(link, change)
  }

/** Multiplies the amounts of several links, each kept between 0 and its full range. */
export const setAmounts =
  (amounts: ReadonlyMap<string, number>): Edit =>
  (p) => {
    for (const link of p.links) link.amount = amounts.get(link.id) ?? link.amount
  }

/** Gives a link another modulator or output as its source. */
export const setLinkSource =
  (id: string, source: string, output?: string): Edit =>
  (p) => {
    const link = p.links.find((l) => l.id === id)
    const found = findOwner(p, source)
    if (!link || found?.kind !== 'modulator') return
    const outputs = modulatorDefinition(found.modulator.type)?.outputs ?? []
    link.source = source
    link.output = output && outputs.includes(output) ? output : (outputs[0] ?? 'value')
  }

/**
 * Points a link at another parameter. A floating range lies about the new base as it did about the old one; a
 * fixed one keeps its places.
 */
export const setLinkTarget =
  (id: string, target: Target): Edit =>
  (p) => {
    const link = p.links.find((l) => l.id === id)
    const before = link && findTarget(p, link.target)
    const after = findTarget(p, target)
    if (!link || !after || target.owner === link.id) return
    const stepped = after.spec.unit === 'choice' || after.spec.unit === 'toggle'
    // a floating range goes along and lies about the new base; a fixed one stays at its places
    if (before && (stepped || link.mode !== 'floating')) {
      const ends = linkEnds({ ...link, amount: 1 }, before.spec, before.base)
      const mode = stepped ? 'fixed' : link.mode
      Object.assign(link, endsToStore(mode, after.spec, after.base, ends.from, ends.to), { mode })
    }
    link.target = target
    if (target.lane === undefined || target.index !== undefined) link.fan = null
  }

/**
 * Points the links of a modulator at another place: a single one at the parameter given, several at those of
 * the same names on its owner; a link to what that owner does not have stays where it is.
 */
export const pointLinks =
  (modulator: string, target: Target): Edit =>
  (p) => {
    const own = p.links.filter((l) => l.source === modulator && l.id !== target.owner)
    const first = own[0]
    if (own.length === 1 && first) return setLinkTarget(first.id, target)(p)
    for (const link of own)
      if (link.target.owner === first?.target.owner)
        setLinkTarget(link.id, { ...link.target, owner: target.owner })(p)
  }

/**
 * Teaches a macro one end of what it does to a parameter: with the macro at that end, the parameter stands at
 * `place`. A parameter that it did not move before keeps its base at the other end.
 */
export const learnEnd =
  (macro: string, target: Target, end: 'from' | 'to', place: number): Edit =>
  (p) => {
    const found = findTarget(p, target)
    if (!found || target.owner === macro) return
    const known = (): Link | undefined =>
      p.links.find((l) => l.source === macro && sameTarget(l.target, target))
    if (!known()) {
      const base = toNormalized(found.spec, found.base)
      addLink(macro, target, base, base, { mode: 'fixed' })(p)
    }
    const link = known()
    if (!link) return
    const now = linkEnds({ ...link, amount: 1 }, found.spec, found.base)
    const ends = { ...now, [end]: Math.min(1, Math.max(0, place)) }
    Object.assign(
      link,
      { mode: 'fixed', amount: 1 },
      endsToStore('fixed', found.spec, found.base, ends.from, ends.to),
    )
  }

/** Moves the ends of a link to places of its target's range, whatever its mode. */
export const setLinkEnds =
  (id: string, from: number, to: number): Edit =>
  (p) => {
    const link = p.links.find((l) => l.id === id)
    const found = link && findTarget(p, link.target)
    if (link && found) Object.assign(link, endsToStore(link.mode, found.spec, found.base, from, to))
  }

/** Changes between floating and fixed; the range stays where it stands now. */
export const setLinkMode =
  (id: string, mode: Link['mode']): Edit =>
  (p) => {
    const link = p.links.find((l) => l.id === id)
    const found = link && findTarget(p, link.target)
    if (!link || !found || link.mode === mode) return
    if (mode === 'pitch' && !followsPitch(found.spec)) return
    const { from, to } = linkEnds({ ...link, amount: 1 }, found.spec, found.base)
    Object.assign(link, endsToStore(mode, found.spec, found.base, from, to), { mode })
  }

export const removeLink = (id: string): Edit => removeLinks([id])

export const removeLinks =
  (ids: readonly string[]): Edit =>
  (p) => {
    p.links = p.links.filter((l) => !ids.includes(l.id))
    dropStrayLinks(p)
  }
