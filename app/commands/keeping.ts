import { SNAPSHOTS } from '@oleaje/core/project/snapshots'
import type { Session } from '../services/session'
import { BENCH, type Action, type ActionGroup } from './action'

/** Actions for keeping, opening, rendering and recalling. */
export const keepingActions: ActionGroup = (session) => {
  const { screen } = session
  return [
    {
      name: 'Keep the selection on the shelf',
      keys: 'Shift+F',
      binding: 'Shift+f',
      at: BENCH,
      run: () => keep(session),
    },
    {
      name: 'Go to Shelf',
      keys: 'F',
      binding: 'f',
      run: () => void session.views.go('/shelf'),
    },
    { name: 'Copy, cut, paste', keys: 'Ctrl+C, Ctrl+X, Ctrl+V', run: () => {} },
    ...Array.from({ length: SNAPSHOTS }, (_, i): Action[] => [
      {
        name: `Recall snapshot ${i + 1}`,
        keys: `${i + 1}`,
        binding: `Digit${i + 1}`,
        run: () => session.snapshots.recall(i + 1),
      },
      {
        name: `Store snapshot ${i + 1}`,
        keys: `Shift+${i + 1}`,
        binding: `Shift+Digit${i + 1}`,
        run: () => session.snapshots.take(i + 1),
      },
    ]).flat(),
    {
      name: 'Render',
      keys: 'R',
      binding: 'r',
      run: () => {
        screen.dialog = 'render'
      },
    },
    {
      name: 'Print the track or the mix to a new track',
      keys: 'Ctrl+P',
      binding: '$mod+p',
      run: () => {
        screen.dialog = 'print'
      },
    },
    {
      name: 'Save to file',
      keys: 'Ctrl+S',
      binding: '$mod+s',
      run: () => void session.library.saveToFile(),
    },
    {
      name: 'Projects',
      keys: 'P',
      binding: 'p',
      run: () => {
        screen.dialog = 'projects'
      },
    },
    { name: 'New project', keys: '', run: () => void session.library.newProject() },
  ]
}

/** Asks for the name under which what has the focus is kept. */
function keep({ screen, shelf }: Session): void {
  screen.toKeep = shelf.presetToKeep(document.activeElement) ?? null
  if (screen.toKeep) screen.dialog = 'keep'
}
