import { groupAround, loopBackAround, splitAround } from '@oleaje/core/project/chain-edits'
import { newId } from '@oleaje/core/project/new'
import type { useSession } from '../composables/useSession'

const containers = {
  'split': { label: 'Split around', edit: splitAround },
  'group': { label: 'Group', edit: (ids: readonly string[], id: string) => groupAround(ids, undefined, id) },
  'loop-back': { label: 'Loop-back', edit: loopBackAround },
} as const

export type Container = keyof typeof containers

/** Puts a container around all effects that are marked; it is selected then. */
export function enclose({ doc, selection }: Pick<ReturnType<typeof useSession>, 'doc' | 'selection'>, container: Container): void {
  if (selection.owner?.kind !== 'node') return
  const { label, edit } = containers[container]
  const id = newId()
  doc.edit(label, edit(selection.selected, id))
  selection.selected = [id]
}
