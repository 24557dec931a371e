import { create } from 'mutative'
import type { Project } from './schema'

/** A change of a project, written on a draft of it. Made by the functions below; carried out by {@link apply}. */
export type Edit = (draft: Project) => void

/** One step into a document and what stands there: JSON patch with a path of keys (as in RFC 6902, paths in parts). */
export interface Patch {
  readonly op: 'add' | 'remove' | 'replace'
  readonly path: readonly (string | number)[]
  readonly value?: unknown
}

export interface Change {
  readonly next: Project
  readonly patches: readonly Patch[]
  readonly inverse: readonly Patch[]
}

/** Carries an edit out. Pure: the project given stays as it was, and the parts that did not change are shared. */
export function apply(project: Project, edit: Edit): Change {
  const [next, patches, inverse] = create(project, (draft) => { edit(draft as Project) }, { enablePatches: { pathAsArray: true } })
  return { next, patches: patches as Patch[], inverse: inverse as Patch[] }
}
