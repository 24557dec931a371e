/**
 * One step into a document: a key of an object, a place in a plain list, or the item with this id in a list
 * whose items have ids.
 */
export type PathStep = string | number | { readonly id: string }
export type Path = readonly PathStep[]

/**
 * A change of a document. Things in lists are addressed by their ids, so a patch means the same whatever else
 * has come and gone meanwhile. In `insert` and `move`, `after` is the id of the item before; null for the
 * start.
 */
export type Patch =
  | { readonly op: 'set'; readonly path: Path; readonly value: unknown }
  | { readonly op: 'unset'; readonly path: Path }
  | { readonly op: 'insert'; readonly path: Path; readonly value: unknown; readonly after: string | null }
  | { readonly op: 'remove'; readonly path: Path; readonly id: string }
  | { readonly op: 'move'; readonly path: Path; readonly id: string; readonly after: string | null }

/** A patch that could not be applied. */
export class PatchError extends Error {
  override name = 'PatchError'
}

type Node = Record<string | number, unknown>
interface Item {
  readonly id: string
}

/**
 * The document after some patches. Pure: the one given stays as it was, and the parts that did not change are
 * shared. It runs on the thread of the sound, so it copies along the paths and does nothing else.
 * @param tolerant leaves out what points to something that is not there
 * @throws PatchError where a path leads nowhere, unless tolerant
 */
export function patched<T>(document: T, patches: readonly Patch[], tolerant = false): T {
  const root: Node = { document }
  const own = new Set<unknown>([root])
  for (const patch of patches) {
    try {
      carryOut(root, patch, own)
    } catch (error) {
      if (!tolerant || !(error instanceof PatchError)) throw error
    }
  }
  return root.document as T
}

function carryOut(root: Node, patch: Patch, own: Set<unknown>): void {
  let at = root
  let key: string | number = 'document'
  for (const step of patch.path) {
    // checked before the copy: a patch that is left out changes nothing
    const next = at[key]
    const under = keyIn(next, step)
    at = at[key] = copied(next, own)
    key = under
  }
  if (patch.op === 'set') {
    at[key] = patch.value
    return
  }
  if (patch.op === 'unset') {
    Reflect.deleteProperty(at, key)
    return
  }
  if (!Array.isArray(at[key])) throw new PatchError('A change points to a list that is not in the project.')
  const list = (at[key] = copied(at[key], own) as unknown as Item[])
  const from = patch.op === 'insert' ? -1 : list.findIndex((x) => x.id === patch.id)
  if (from < 0 && patch.op !== 'insert')
    throw new PatchError('A change points to something that is not in the project.')
  const [taken] = from < 0 ? [] : list.splice(from, 1)
  if (patch.op === 'remove') return
  const item = patch.op === 'insert' ? (patch.value as Item) : (taken as Item)
  // an existing item is not inserted twice
  if (patch.op === 'insert' && list.some((x) => x.id === item.id))
    throw new PatchError('A change brings something that is in the project already.')
  const before = patch.after === null ? -1 : list.findIndex((x) => x.id === patch.after)
  list.splice(patch.after !== null && before < 0 ? list.length : before + 1, 0, item)
}

/** The key under which a step leads on from a node. */
function keyIn(node: unknown, step: PathStep): string | number {
  if (typeof node !== 'object' || node === null)
    throw new PatchError('A change points to something that is not in the project.')
  if (typeof step !== 'object') {
    if (Array.isArray(node) && (typeof step !== 'number' || step >= node.length))
      throw new PatchError('A change points to something that is not in the project.')
    return step
  }
  const index = Array.isArray(node) ? (node as Item[]).findIndex((x) => x.id === step.id) : -1
  if (index < 0) throw new PatchError('A change points to something that is not in the project.')
  return index
}

/** A copy that may be written to; what is one already stays. */
function copied(node: unknown, own: Set<unknown>): Node {
  if (own.has(node)) return node as Node
  const copy: unknown = Array.isArray(node) ? node.slice() : { ...(node as Node) }
  own.add(copy)
  return copy as Node
}

/** Items of a plain list that may change one by one before the list is given as a whole. */
const FEW = 8

/** The patches that lead from one document to another. Parts that both share cost nothing. */
export function difference(before: unknown, after: unknown): Patch[] {
  const patches: Patch[] = []
  compare(before, after, [], patches)
  return patches
}

function compare(before: unknown, after: unknown, path: Path, out: Patch[]): void {
  if (Object.is(before, after)) return
  if (Array.isArray(before) && Array.isArray(after)) return compareLists(before, after, path, out)
  if (!isObject(before) || !isObject(after)) {
    out.push({ op: 'set', path, value: after })
    return
  }
  for (const key of Object.keys(before))
    if (after[key] === undefined && before[key] !== undefined) out.push({ op: 'unset', path: [...path, key] })
  for (const [key, value] of Object.entries(after)) {
    if (value === undefined || value === before[key]) continue
    if (before[key] === undefined) out.push({ op: 'set', path: [...path, key], value })
    else compare(before[key], value, [...path, key], out)
  }
}

function compareLists(before: readonly unknown[], after: readonly unknown[], path: Path, out: Patch[]): void {
  if (haveIds(before) && haveIds(after) && (before.length > 0 || after.length > 0))
    return compareItems(before, after, path, out)
  const inner: Patch[] = []
  if (before.length === after.length) {
    let changed = 0
    for (let i = 0; i < after.length && changed <= FEW; i++) {
      if (before[i] === after[i]) continue
      changed++
      compare(before[i], after[i], [...path, i], inner)
    }
    if (changed <= FEW) {
      out.push(...inner)
      return
    }
  }
  out.push({ op: 'set', path, value: after })
}

function compareItems(before: readonly Item[], after: readonly Item[], path: Path, out: Patch[]): void {
  const old = new Map(before.map((x) => [x.id, x]))
  const stays = new Set(after.map((x) => x.id))
  for (const { id } of before) if (!stays.has(id)) out.push({ op: 'remove', path, id })
  const still = unmoved(
    before.filter((x) => stays.has(x.id)),
    after,
  )
  let last: string | null = null
  for (const item of after) {
    const known = old.get(item.id)
    if (!known) out.push({ op: 'insert', path, value: item, after: last })
    else if (!still.has(item.id)) out.push({ op: 'move', path, id: item.id, after: last })
    last = item.id
  }
  for (const item of after) {
    const known = old.get(item.id)
    if (known && known !== item) compare(known, item, [...path, { id: item.id }], out)
  }
}

/**
 * Ids of the items that can stay where they are while the others are moved: the longest row that is in order
 * in both lists.
 */
function unmoved(before: readonly Item[], after: readonly Item[]): Set<string> {
  const place = new Map(before.map((x, i) => [x.id, i]))
  const order = after.filter((x) => place.has(x.id)).map((x) => x.id)
  const at = (id: string | undefined): number => (id === undefined ? -1 : (place.get(id) ?? -1))
  if (order.every((id, i) => at(id) === i)) return new Set(order)
  // longest increasing subsequence (Fredman 1975): `ends[n]` is the least last item of a row of n + 1, `from`
  // what comes before
  const ends: string[] = []
  const from = new Map<string, string | undefined>()
  for (const id of order) {
    let low = 0
    let high = ends.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (at(ends[middle]) < at(id)) low = middle + 1
      else high = middle
    }
    from.set(id, ends[low - 1])
    ends[low] = id
  }
  const row = new Set<string>()
  for (let id: string | undefined = ends[ends.length - 1]; id !== undefined; id = from.get(id)) row.add(id)
  return row
}

const isObject = (x: unknown): x is Node => typeof x === 'object' && x !== null && !Array.isArray(x)

/** Whether every item of a list has an id of its own. */
function haveIds(list: readonly unknown[]): list is readonly Item[] {
  const ids = new Set<unknown>()
  for (const x of list) {
    if (!isObject(x) || typeof x.id !== 'string') return false
    ids.add(x.id)
  }
  return ids.size === list.length
}
