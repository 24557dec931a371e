import { addNode } from '@oleaje/core/project/chain-edits'
import { type PresetPlacing, presetOfNew, takePresetInto } from '@oleaje/core/project/preset'
import type { ChainNode } from '@oleaje/core/project/schema'
import { findOwner } from '@oleaje/core/project/walk'
import { focusWhenShown } from '../focus/focus-when-shown'
import type { Session } from '../services/session'

/** How a new effect is put into the chain: after the selection, beside it in a split, or in its place. */
export type Manner = 'after' | 'around' | 'instead'

/** Puts a new effect or container into the chain; it is selected and has the focus then. */
export function putNode(
  { doc, selection, screen }: Session,
  node: ChainNode,
  name: string,
  manner: Manner,
): void {
  const { track } = selection
  if (!track) return
  const chosen = selection.selected.filter((id) => doc.project && findOwner(doc.project, id)?.kind === 'node')
  let made = node.id
  if (manner === 'after' || chosen.length === 0 || screen.addSpot) {
    const last = chosen[chosen.length - 1]
    const branch = selection.owner?.kind === 'branch' ? selection.owner.branch.id : undefined
    doc.edit(
      `Add ${name}`,
      addNode(node, screen.addSpot ?? (last ? { after: last } : { startOf: branch ?? track.id })),
    )
  } else {
    const placing: PresetPlacing = manner === 'around' ? { around: chosen } : { instead: chosen }
    doc.edit(
      manner === 'around' ? `Split with ${name}` : `Replace with ${name}`,
      takePresetInto(track.id, presetOfNew(node, name), placing, ({ nodes }) => {
        made = nodes[0] ?? ''
      }),
    )
  }
  selection.select(made)
  void focusWhenShown(() => document.querySelector<HTMLElement>(`[data-node="${made}"]`))
}
