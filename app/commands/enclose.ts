import { putAround } from '@oleaje/core/project/chain-edits'
import { newId } from '@oleaje/core/project/new'
import { nodeKinds } from '@oleaje/core/project/nodes/index'
import type { useSession } from '../composables/useSession'

/** Keys that put a container around what is marked. */
const keys: Readonly<Record<string, string>> = { 'split': 'Shift+Y', 'loop-back': 'Y' }

/** The containers that can be put around effects, with their labels, tooltips and keys. */
export const containers = Object.values(nodeKinds).flatMap(({ kind, around }) =>
  around ? [{ kind, label: around.label, tip: around.tip, keys: keys[kind] }] : [],
)
/** The tooltip of a container's button, with its key. */
export const containerTip = ({ tip, keys: key }: (typeof containers)[number]): string =>
  key ? `${tip} (${key})` : tip

/** Puts a container around all effects that are marked; it is selected then. */
export function enclose(
  { doc, selection }: Pick<ReturnType<typeof useSession>, 'doc' | 'selection'>,
  kind: string,
): void {
  const around = nodeKinds[kind]?.around
  if (selection.owner?.kind !== 'node' || !around) return
  const id = newId()
  doc.edit(around.label, putAround(kind, selection.selected, id))
  selection.selected = [id]
}
