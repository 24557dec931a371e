import { Random, mix32 } from '../dsp/random'
import { type Edit, apply, together } from '../project/edit'
import { isMorph } from '../project/morph'
import { gaugeKey, splitGaugeKey } from '../project/param-path'
import type { Preset } from '../project/preset'
import { replaceChain } from '../project/replace-chain'
import type { Project, Source, Track } from '../project/schema'
import { goTowards, valuesOf } from '../project/snapshots'
import { gaugeName, ownerName, specAt } from '../project/targets'
import { setParam } from '../project/value-edits'
import { findOwner, heardChain, ownerId, ownersIn, trackOf } from '../project/walk'
import { toNormalized } from '../units/scale'
import { formatValue } from '../units/text'
import { type DiceKind, throwDice } from './dice'

/** One variant of a track: its name, and the edit that makes it of the project as it is. */
export interface Variant {
  readonly name: string
  readonly edit: Edit
}

/** The track as it is: what the others are held against. */
export const asItIs: Variant = { name: 'As it is', edit: () => {} }

/** Throws of the dice on the chain of a track, after the chain as it is. */
export const diceVariants = (
  track: string,
  count: number,
  seed: number,
  amount: number,
  kinds: readonly DiceKind[],
): Variant[] => [
  asItIs,
  ...Array.from({ length: count - 1 }, (_, i) => ({
    name: `Throw ${i + 1}`,
    edit: throwDice({ scope: { kind: 'chain', id: track }, amount, kinds, seed: mix32(seed + i) }),
  })),
]

/** Orders of the effects of a track, each once. */
export function orderVariants(p: Project, track: string, count: number, seed: number): Variant[] {
  const found = new Map<string, Variant>()
  const orderOf = (q: Project): string => {
    const t = trackOf(q, track)
    return t
      ? heardChain(t)
          .nodes.map((n) => n.id)
          .join()
      : ''
  }
  found.set(orderOf(p), asItIs)
  for (let i = 0; found.size < count && i < 12 * count; i++) {
    const edit = throwDice({
      scope: { kind: 'chain', id: track },
      amount: 1,
      kinds: ['order'],
      seed: mix32(seed + i),
    })
    const order = orderOf(apply(p, edit).next)
    if (!found.has(order)) found.set(order, { name: `Order ${found.size}`, edit })
  }
  return [...found.values()]
}

/** The snapshots of a track, after the track as it is. */
export const snapshotVariants = (track: Track): Variant[] => [
  asItIs,
  ...track.snapshots.map((s) => ({ name: s.name, edit: goTowards({}, s.values, 1) })),
]

/** Places of the first morph of a track, row by row from the bottom. */
export function morphVariants(track: Track, count: number): Variant[] {
  const morph = track.modulators.find(isMorph)
  if (!morph) return []
  const isLine = morph.params.over === 1
  const columns = isLine ? count : Math.max(2, Math.round(Math.sqrt(count)))
  const rows = isLine ? 1 : Math.ceil(count / columns)
  const at = (i: number, n: number): number => (n > 1 ? i / (n - 1) : 0.5)
  return Array.from({ length: count }, (_, i) => {
    const x = at(i % columns, columns)
    const y = at(Math.floor(i / columns), rows)
    return {
      name: `${morph.name} ${Math.round(100 * x)} %, ${Math.round(100 * y)} %`,
      edit: together(setParam(morph.id, 'x', x), setParam(morph.id, 'y', y)),
    }
  })
}

/** Presets in place of the chain of a track, after the chain as it is. */
export const presetVariants = (track: string, presets: readonly Preset[]): Variant[] => [
  asItIs,
  ...presets.map((preset) => ({ name: preset.name, edit: replaceChain(track, preset) })),
]

/** A source with the entries of its sounds. */
export interface TriedSound {
  readonly name: string
  readonly source: Source
  readonly audio: Project['audio']
}

/** The chain of a track on other sources: each takes the place of its source, and what moves that stays. */
export const sourceVariants = (track: string, sources: readonly TriedSound[]): Variant[] => [
  asItIs,
  ...sources.map(({ name, source, audio }) => ({
    name,
    edit: (p: Project) => {
      const t = trackOf(p, track)
      if (!t) return
      for (const [hash, ref] of Object.entries(audio)) p.audio[hash] ??= ref
      t.source = { ...(JSON.parse(JSON.stringify(source)) as Source), id: t.source?.id ?? source.id }
    },
  })),
]

/**
 * A child of two variants of a track: the structure of the first, each parameter that both have from one of
 * them. The same seed gives the same child.
 */
export function bred(p: Project, track: string, first: Edit, second: Edit, seed: number): Edit {
  const other = apply(p, second).next
  const from = trackOf(other, track)
  const values = from ? valuesOf(other, from) : {}
  return together(first, (q) => {
    const random = new Random(seed)
    const chosen = Object.entries(values).filter(() => random.next() < 0.5)
    goTowards({}, Object.fromEntries(chosen), 1)(q)
  })
}

/** Differences that are named. */
const NAMED = 3

/**
 * What differs between two states of a track, in words: the parameters that differ most with both values, and
 * how many more; another source, another order, other effects.
 */
export function differenceInWords(before: Project, after: Project, track: string): string {
  const [a, b] = [trackOf(before, track), trackOf(after, track)]
  if (!a || !b) return ''
  const words: string[] = []
  if (a.source?.audio !== b.source?.audio || a.source?.type !== b.source?.type) words.push('another source')
  const ids = (t: Track): string[] => heardChain(t).nodes.map((n) => n.id)
  if (ids(a).join() !== ids(b).join()) {
    const isSame = [...ids(a)].sort().join() === [...ids(b)].sort().join()
    words.push(
      `${isSame ? 'order' : 'effects'}: ${heardChain(b)
        .nodes.map((node) => ownerName({ kind: 'node', node, track: b }))
        .join(', ')}`,
    )
    if (!isSame) return words.join(' · ')
  }
  const [old, young] = [valuesOf(before, a), valuesOf(after, b)]
  const owners = new Map(ownersIn(b).map((o) => [ownerId(o), o]))
  const changed = Object.entries(young).flatMap(([key, value]) => {
    const was = old[key]
    const [id, path] = splitGaugeKey(key)
    const owner = owners.get(id) ?? findOwner(after, id)
    const spec = owner && specAt(owner, path)
    if (was === undefined || was === value || !spec) return []
    const text = `${gaugeName(after, owner, path)} ${formatValue(spec, was)} → ${formatValue(spec, value)}`
    return [
      { key: gaugeKey(id, path), text, far: Math.abs(toNormalized(spec, value) - toNormalized(spec, was)) },
    ]
  })
  changed.sort((x, y) => y.far - x.far)
  words.push(...changed.slice(0, NAMED).map((c) => c.text))
  if (changed.length > NAMED) words.push(`${changed.length - NAMED} more`)
  return words.join(' · ')
}
