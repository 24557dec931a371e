import type { z } from 'zod'
import { checkProject, issueSentence, migrate } from './read'
import { type Project, projectSchema } from './schema'

/** Parts that are mended at most; what is worse than that is no project that was made here. */
const MOST = 200

/** A project that was kept and is nearly valid, and what had to be mended, each as a sentence. */
export interface Mended {
  readonly project: Project
  readonly mended: readonly string[]
}

/**
 * Reads a project that this program kept. Where a part of it is not valid, the part is mended: a number is
 * brought into its range, a text or a list is cut to the length that is possible, and what cannot be put
 * right is left out. @throws ProjectError
 */
export function mendProject(raw: unknown): Mended {
  const draft = JSON.parse(JSON.stringify(raw)) as unknown
  if (typeof draft !== 'object' || draft === null) return { project: checkProject(raw), mended: [] }
  const migrated =
    (draft as { format?: unknown }).format === 'oleaje-project'
      ? migrate(draft as Record<string, unknown>)
      : draft
  const mended: string[] = []
  for (let n = 0; n < MOST; n++) {
    const result = projectSchema.safeParse(migrated)
    if (result.success) break
    const issue = result.error.issues[0]
    if (!issue || !mend(migrated as Record<string, unknown>, issue)) break
    mended.push(issueSentence(issue, 'project').replace(/^This project cannot be read: a/, 'A'))
  }
  return { project: checkProject(migrated), mended }
}

/** Puts right what an issue names; false where that cannot be done. */
function mend(root: Record<string, unknown>, issue: z.core.$ZodIssue): boolean {
  const { path } = issue
  const holder = path
    .slice(0, -1)
    .reduce<unknown>((at, key) => (at as Record<PropertyKey, unknown> | undefined)?.[key], root)
  const key = path[path.length - 1]
  if (key === undefined || typeof holder !== 'object' || holder === null) return false
  const owner = holder as Record<PropertyKey, unknown>
  const value = owner[key]
  if (issue.code === 'too_big' || issue.code === 'too_small') {
    const bound = Number(issue.code === 'too_big' ? issue.maximum : issue.minimum)
    if (typeof value === 'number') {
      owner[key] = bound
      return true
    }
    if (issue.code === 'too_big' && (typeof value === 'string' || Array.isArray(value))) {
      owner[key] = value.slice(0, bound)
      return true
    }
  }
  // a number that is no number of its kind: a length between none and the least becomes the least
  if (issue.code === 'custom' && typeof value === 'number' && typeof issue.params?.nearest === 'number') {
    owner[key] = issue.params.nearest
    return true
  }
  if (Array.isArray(holder)) {
    holder.splice(Number(key), 1)
    return true
  }
  // of what may be left out the smallest part that holds it: an item of a list further up
  for (let depth = path.length - 1; depth > 0; depth--) {
    const list = path
      .slice(0, depth - 1)
      .reduce<unknown>((at, k) => (at as Record<PropertyKey, unknown> | undefined)?.[k], root)
    const place = path[depth - 1]
    if (Array.isArray(list) && typeof place === 'number') {
      list.splice(place, 1)
      return true
    }
  }
  if (Object.hasOwn(owner, key)) {
    delete owner[key]
    return true
  }
  return false
}
