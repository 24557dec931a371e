import type { ChainNode } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { paneViews } from '../stores/listening-views'
import type { Session } from '../services/session'
import { EFFECT, BENCH, type Action, type ActionGroup } from './action'
import { branchOf } from './branch-of'

/** Actions for monitoring and the listening views. */
export const listeningActions: ActionGroup = (session) => {
  const { selection, monitoring, screen, preferences } = session
  const node = (): ChainNode | undefined =>
    selection.owner?.kind === 'node' ? selection.owner.node : undefined
  return [
    {
      name: 'Monitor dry',
      keys: 'V',
      binding: 'v',
      run: () => {
        monitoring.hearDry = !monitoring.hearDry
      },
    },
    {
      name: 'Monitor up to the effect',
      keys: 'H',
      binding: 'h',
      at: EFFECT,
      run: () => {
        monitoring.upTo = monitoring.upTo === selection.selectedId ? null : selection.selectedId
      },
    },
    {
      name: 'Monitor the wet signal of the effect',
      keys: 'E',
      binding: 'e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'wet')
      },
    },
    {
      name: 'Monitor the difference of the effect',
      keys: 'Shift+E',
      binding: 'Shift+e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'difference')
      },
    },
    { name: 'Monitor everything', keys: 'Shift+H', binding: 'Shift+h', run: () => monitoring.hearAll() },
    { name: 'Solo the branch', keys: 'S', binding: 's', at: EFFECT, run: () => soloBranch(session) },
    {
      name: 'Solo the selected modulator',
      keys: 'O',
      binding: 'o',
      run: () => {
        monitoring.alone = monitoring.alone ? null : selection.traced
      },
    },
    {
      name: 'Enlarge a listening pane, or restore it',
      keys: 'Shift+Z',
      binding: 'Shift+z',
      at: BENCH,
      run: () => {
        const { paneViews: shown } = preferences
        screen.enlargedPane = screen.enlargedPane === null ? shown.findIndex((v) => v !== 'song') : null
      },
    },
    ...paneViews.map((v): Action => ({
      name: `Show ${v.name.toLowerCase()} in the dock`,
      keys: '',
      run: () => {
        const { paneViews: shown } = preferences
        if (!shown.includes(v.id)) preferences.paneViews = shown.map((w, i) => (i === 1 ? v.id : w))
      },
    })),
  ]
}

function soloBranch({ selection, monitoring }: Session): void {
  const found = selection.track && branchOf(heardChain(selection.track).nodes, selection.selectedId)
  const branch = found?.split.branches[Math.max(0, found.index)]
  if (branch) monitoring.toggleSoloBranch(branch.id)
}
