import { duplicateNode, removeNode, shiftNode, unwrap } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { ChainNode } from '@oleaje/core/project/schema'
import { branchesOf, innerLists } from '@oleaje/core/project/nodes/index'
import { heardChain, placeOf } from '@oleaje/core/project/walk'
import { enclose } from './enclose'
import type { Session } from '../services/session'
import { EFFECT, CHART, BENCH, type ActionGroup } from './action'
import { branchOf, contains } from './branch-of'

/** The effects of the selected track: made, moved and walked through. */
export const chainActions: ActionGroup = (session) => {
  const { doc, selection, screen } = session
  const node = (): ChainNode | undefined =>
    selection.owner?.kind === 'node' ? selection.owner.node : undefined
  return [
    {
      name: 'Wrap the selected effects in a loop-back',
      keys: 'Y',
      binding: 'y',
      at: EFFECT,
      run: () => enclose(session, 'loop-back'),
    },
    {
      name: 'Split around the selected effects',
      keys: 'Shift+Y',
      binding: 'Shift+y',
      at: EFFECT,
      run: () => enclose(session, 'split'),
    },
    {
      name: 'Group the selected effects',
      keys: '',
      at: EFFECT,
      run: () => enclose(session, 'group'),
    },
    {
      name: 'Unwrap the container',
      keys: '',
      at: EFFECT,
      run: () => {
        const n = node()
        if (n && n.kind !== 'effect') doc.edit('Unwrap', unwrap(n.id))
      },
    },
    {
      name: 'Add an effect after the selected one',
      keys: 'A',
      binding: 'a',
      at: BENCH,
      run: () => {
        screen.dialog = 'add'
      },
    },
    {
      name: 'Duplicate the effect',
      keys: 'D',
      binding: 'd',
      at: CHART,
      run: () => {
        if (selection.selectedId) doc.edit('Duplicate', duplicateNode(selection.selectedId))
      },
    },
    { name: 'Remove the effect', keys: 'Delete', binding: 'Delete', at: CHART, run: () => remove(session) },
    {
      name: 'Turn the effect on or off',
      keys: 'X',
      binding: 'x',
      at: EFFECT,
      run: () => {
        const n = node()
        if (n) doc.edit('Turn effect on or off', setParam(n.id, 'on', (n.params.on ?? 1) >= 0.5 ? 0 : 1))
      },
    },
    {
      name: 'Move the effect left',
      keys: 'Ctrl+Shift+←',
      binding: '$mod+Shift+ArrowLeft',
      at: EFFECT,
      run: () => {
        if (selection.selectedId) doc.edit('Move effect', shiftNode(selection.selectedId, -1))
      },
    },
    {
      name: 'Move the effect right',
      keys: 'Ctrl+Shift+→',
      binding: '$mod+Shift+ArrowRight',
      at: EFFECT,
      run: () => {
        if (selection.selectedId) doc.edit('Move effect', shiftNode(selection.selectedId, 1))
      },
    },
    {
      name: 'Go to the next effect',
      keys: '← →',
      binding: 'ArrowRight',
      at: CHART,
      run: () => walk(session, 1),
    },
    {
      name: 'Go to the previous effect',
      keys: '←',
      binding: 'ArrowLeft',
      at: CHART,
      run: () => walk(session, -1),
    },
    {
      name: 'Go to the branch below',
      keys: '↓',
      binding: 'ArrowDown',
      at: CHART,
      run: () => changeBranch(session, 1),
    },
    {
      name: 'Go to the branch above',
      keys: '↑',
      binding: 'ArrowUp',
      at: CHART,
      run: () => changeBranch(session, -1),
    },
  ]
}

function remove({ doc, selection }: Session): void {
  const id = selection.selectedId
  const track = selection.track
  if (!id || !track) return
  const place = placeOf(heardChain(track).nodes, id)
  const next = place && (place.list[place.index + 1] ?? place.list[place.index - 1])
  doc.edit('Remove effect', removeNode(id))
  selection.selected = next ? [next.id] : []
}

/** The chain as one walks it: containers open into their first branch. */
function walk({ selection }: Session, by: 1 | -1): void {
  const track = selection.track
  if (!track) return
  const flat: string[] = []
  const visit = (list: readonly ChainNode[]): void => {
    for (const n of list) {
      flat.push(n.id)
      const empty = branchesOf(n).find((b) => b.id === selection.selectedId)
      if (empty) {
        flat.push(empty.id)
        continue
      }
      const inner = innerLists(n)
      const holds = inner.find((l) => contains(l, selection.selectedId)) ?? inner[0]
      if (holds) visit(holds)
    }
  }
  visit(heardChain(track).nodes)
  const at = flat.indexOf(selection.selectedId ?? '')
  const next = flat[at < 0 ? 0 : Math.min(flat.length - 1, Math.max(0, at + by))]
  if (next) selection.select(next)
}

function changeBranch({ selection }: Session, by: 1 | -1): void {
  const found = selection.track && branchOf(heardChain(selection.track).nodes, selection.selectedId)
  if (!found) return
  for (let i = found.index + by; i >= 0 && i < found.split.branches.length; i += by) {
    const branch = found.split.branches[i]
    // an empty one is selected itself
    if (branch) return selection.select(branch.nodes[0]?.id ?? branch.id)
  }
}
