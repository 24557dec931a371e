import type { ChainNode } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { listeningViews } from '../stores/listening-views'
import type { Session } from '../services/session'
import { EFFECT, BENCH, type Action, type ActionGroup } from './action'
import { branchOf } from './branch-of'

/** What is heard for now, and what the listening panel shows. */
export const listeningActions: ActionGroup = (session) => {
  const { selection, monitoring, screen } = session
  const node = (): ChainNode | undefined =>
    selection.owner?.kind === 'node' ? selection.owner.node : undefined
  return [
    {
      name: 'Hear dry',
      keys: 'V',
      binding: 'v',
      run: () => {
        monitoring.hearDry = !monitoring.hearDry
      },
    },
    {
      name: 'Hear up to here',
      keys: 'H',
      binding: 'h',
      at: EFFECT,
      run: () => {
        monitoring.upTo = monitoring.upTo === selection.selectedId ? null : selection.selectedId
      },
    },
    {
      name: 'Hear the wet part of the effect',
      keys: 'E',
      binding: 'e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'wet')
      },
    },
    {
      name: 'Hear what the effect adds',
      keys: 'Shift+E',
      binding: 'Shift+e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'difference')
      },
    },
    { name: 'Hear all again', keys: 'Shift+H', binding: 'Shift+h', run: () => monitoring.hearAll() },
    { name: 'Hear this branch alone', keys: 'S', binding: 's', at: EFFECT, run: () => soloBranch(session) },
    {
      name: 'Hear the traced modulator alone, the others standing still',
      keys: 'O',
      binding: 'o',
      run: () => {
        monitoring.alone = monitoring.alone ? null : selection.traced
      },
    },
    {
      name: 'Enlarge the listening panel, and back',
      keys: 'Shift+Z',
      binding: 'Shift+z',
      at: BENCH,
      run: () => {
        screen.listeningEnlarged = !screen.listeningEnlarged
      },
    },
    ...listeningViews.map((v): Action => ({
      name: `Listening: ${v.name}`,
      keys: '',
      run: () => {
        screen.listeningView = v.id
      },
    })),
  ]
}

function soloBranch({ selection, monitoring }: Session): void {
  const found = selection.track && branchOf(heardChain(selection.track).nodes, selection.selectedId)
  const branch = found?.split.branches[Math.max(0, found.index)]
  if (branch) monitoring.toggleSoloBranch(branch.id)
}
