import { create } from 'mutative'
import { type Patch, difference } from './patch'
import type { Project } from './schema'

/**
 * A change of a project, written on a draft of it. Made by the functions below; carried out by {@link apply}.
 */
export interface Edit {
  (draft: Project): void
  /** The same without a draft, for an edit of a single value; null where the edit has consequences. */
  readonly change?: (project: Project) => Change | null
}

export interface Change {
  readonly next: Project
  readonly patches: readonly Patch[]
  readonly inverse: readonly Patch[]
  /** It sets values of parameters that are there: nothing is added, and nothing is bound up otherwise. */
  readonly isValue?: boolean
}

/**
 * Carries an edit out. Pure: the project given stays as it was, and the parts that did not change are shared.
 */
export function apply(project: Project, edit: Edit): Change {
  const value = edit.change?.(project)
  if (value) return value
  return changeTo(
    project,
    create(project, (draft) => {
      edit(draft as Project)
    }) as Project,
  )
}

/** Patches from one project to another, and back. */
export const changeTo = (project: Project, next: Project): Change => ({
  next,
  patches: difference(project, next),
  inverse: difference(next, project),
})

/** Several edits as one. */
export const together =
  (...edits: readonly Edit[]): Edit =>
  (p) => {
    for (const edit of edits) edit(p)
  }
