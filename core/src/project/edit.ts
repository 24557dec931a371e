import { create } from 'mutative'
import type { Patch } from './patch'
import type { Project } from './schema'

/** A change of a project, written on a draft of it. Made by the functions below; carried out by {@link apply}. */
export type Edit = (draft: Project) => void

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
