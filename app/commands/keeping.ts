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
    {
      name: 'Open or close the dice',
      keys: 'Shift+X',
      binding: 'Shift+x',
      run: () => {
        session.screen.dice = !session.screen.dice
      },
    },
    {
      name: 'Open or close What matters',
      keys: 'Shift+W',
      binding: 'Shift+w',
      run: () => {
        session.screen.matters = !session.screen.matters
      },
    },
    {
      name: 'Lock the focused gauge, effect or modulator for the dice, or unlock it',
      keys: 'Shift+L',
      binding: 'Shift+l',
      run: () => {
        const key = lockedBy(document.activeElement)
        if (key) session.dice.toggle(key)
      },
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
      name: 'Print the track or the mix to a new track',
      keys: 'Ctrl+P',
      binding: '$mod+p',
      run: () => {
        screen.dialog = 'print'
      },
    },
    {
      name: 'Export the chain for web pages',
      keys: '',
      run: () => {
        if (session.selection.track) screen.dialog = 'export'
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

/** What a lock on the focused thing is called: a gauge, else a modulator or an effect. */
function lockedBy(el: Element | null): string | undefined {
  const of = (name: string): string | undefined => el?.closest<HTMLElement>(`[data-${name}]`)?.dataset[name]
  return of('gauge') ?? of('modulator') ?? of('node')
}

/** Asks for the name under which what has the focus is kept. */
function keep({ screen, shelf }: Session): void {
  screen.toKeep = shelf.presetToKeep(document.activeElement) ?? null
  if (screen.toKeep) screen.dialog = 'keep'
}
