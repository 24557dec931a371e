import { FIRST_PAD, MOST_PADS, type Pad, readPads } from '../sources/kit'
import type { Edit } from './edit'
import { newBranch, newId, newSplit } from './new'
import type { Project, Source, Track } from './schema'
import { dropStrayLinks, dropUnusedSounds, shiftLaneTargets } from './target-edits'
import { ownedItems } from './targets'
import { findOwner, heardChain } from './walk'

/** A kit that plays pads by name and sound, on the notes from C2 up. */
export function kitWith(source: Source, pads: readonly Pad[]): Source {
  return {
    ...source,
    data: { ...source.data, pads: pads.map((p) => ({ ...p })) },
    lanes: { ...source.lanes, pads: pads.map((_, i) => ({ note: FIRST_PAD + i })) },
  }
}

/** Another pad, on the first note from C2 up that is free. */
export const addPad =
  (kit: string, pad: Pad, ref?: Project['audio'][string]): Edit =>
  (p) => {
    const found = findOwner(p, kit)
    if (found?.kind !== 'source') return
    const items = ownedItems(found, 'pads')
    const pads = [...readPads(found.source.data)]
    if (pads.length >= MOST_PADS) return
    if (pad.audio && ref) p.audio[pad.audio] = ref
    let note = FIRST_PAD
    while (pads.length > 0 && items.some((item) => (item.note ?? FIRST_PAD) === note)) note++
    // a kit that has no pads yet has one item, which is its first pad's
    if (pads.length === 0) items.splice(0, items.length)
    items.push({ note })
    pads.push(pad)
    found.source.data = { ...found.source.data, pads: pads.map((x) => ({ ...x })) }
  }

/** Changes the name of a pad, or what it plays. */
export const setPad =
  (kit: string, index: number, change: Partial<Pad>, ref?: Project['audio'][string]): Edit =>
  (p) => {
    const found = findOwner(p, kit)
    if (found?.kind !== 'source') return
    if (change.audio && ref) p.audio[change.audio] = ref
    found.source.data = {
      ...found.source.data,
      pads: readPads(found.source.data).map((pad, i) => ({ ...pad, ...(i === index ? change : {}) })),
    }
  }

/** Takes a pad out; those behind it move up, in splits by pads as well. */
export const removePad =
  (kit: string, index: number): Edit =>
  (p) => {
    const found = findOwner(p, kit)
    if (found?.kind !== 'source') return
    const pads = readPads(found.source.data)
    if (pads.length <= 1) return
    ownedItems(found, 'pads').splice(index, 1)
    found.source.data = {
      ...found.source.data,
      pads: pads.filter((_, i) => i !== index).map((x) => ({ ...x })),
    }
    p.links = p.links.filter(
      (l) => l.target.owner !== kit || l.target.lane !== 'pads' || l.target.index !== index,
    )
    p.controls = p.controls.filter(
      (c) => c.target.owner !== kit || c.target.lane !== 'pads' || c.target.index !== index,
    )
    shiftLaneTargets(p, kit, 'pads', index + 1, -1)
    for (const node of [...found.track.a.nodes, ...(found.track.b?.nodes ?? [])]) {
      if (node.kind !== 'split' || node.mode !== 'pads') continue
      for (const branch of node.branches)
        if (branch.pads)
          branch.pads = branch.pads.flatMap((pad) => (pad === index ? [] : [pad > index ? pad - 1 : pad]))
    }
    dropStrayLinks(p)
    dropUnusedSounds(p)
  }

/** The split by pads at the head of a track's chain. */
export const padSplitOf = (track: Track) => {
  const [first] = heardChain(track).nodes
  return first?.kind === 'split' && first.mode === 'pads' ? first : undefined
}

/** Gives a pad a branch of its own at the head of the chain, in a split that is made where there is none. */
export const ownBranch =
  (track: string, pad: number, name: string, branchId = newId()): Edit =>
  (p) => {
    const t = p.tracks.find((x) => x.id === track)
    if (!t) return
    const own = { ...newBranch(name, 0, branchId), pads: [pad] }
    const split = padSplitOf(t)
    if (!split) {
      heardChain(t).nodes.unshift({ ...newSplit([own, newBranch('all others')]), mode: 'pads' })
      return
    }
    if (split.branches.length >= 8) return
    for (const branch of split.branches) if (branch.pads) branch.pads = branch.pads.filter((x) => x !== pad)
    // the last branch is that of all others
    split.branches.splice(split.branches.length - 1, 0, own)
  }

/** Has pads go along a branch, and along no other before it. */
export const setBranchPads =
  (branch: string, pads: readonly number[]): Edit =>
  (p) => {
    const found = findOwner(p, branch)
    if (found?.kind !== 'branch' || found.node.kind !== 'split') return
    for (const other of found.node.branches)
      if (other.pads && other.id !== branch) other.pads = other.pads.filter((x) => !pads.includes(x))
    found.branch.pads = [...pads]
  }
