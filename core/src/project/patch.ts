/** One step into a document and what stands there: JSON patch with a path of keys (as in RFC 6902, paths in parts). */
export interface Patch {
  readonly op: 'add' | 'remove' | 'replace'
  readonly path: readonly (string | number)[]
  readonly value?: unknown
}

/**
 * The document after some patches. Pure: the one given stays as it was, and the parts that did not change are shared.
 * It runs on the thread of the sound, so it copies along the paths and does nothing else.
 * @throws Error where a path leads nowhere
 */
export function patched<T>(document: T, patches: readonly Patch[]): T {
  const root: Node = { document }
  const own = new Set<unknown>([root])
  for (const { op, path, value } of patches) {
    let at = root
    let key: string | number = 'document'
    for (const step of path) {
      at = at[key] = copied(at[key], own)
      key = step
    }
    if (!Array.isArray(at)) {
      if (op === 'remove') Reflect.deleteProperty(at, key)
      else at[key] = value
    } else if (key === 'length') at.length = value as number
    else if (op === 'replace') at[key as number] = value
    else if (op === 'remove') at.splice(key as number, 1)
    else at.splice(key as number, 0, value)
  }
  return root.document as T
}

type Node = Record<string | number, unknown>

/** A copy that may be written to; what is one already stays. */
function copied(node: unknown, own: Set<unknown>): Node {
  if (own.has(node)) return node as Node
  if (typeof node !== 'object' || node === null) throw new Error('A change points to something that is not in the project.')
  const copy: unknown = Array.isArray(node) ? node.slice() : { ...node }
  own.add(copy)
  return copy as Node
}
