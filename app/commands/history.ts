import type { Session } from '../services/session'
import type { ActionGroup } from './action'

/** Steps back and forth, each named by what it undoes. */
export const historyActions: ActionGroup = (session) => {
  const { doc } = session
  const named = (act: string, step: string): string => (step ? `${act}: ${step}` : act)
  return [
    {
      name: named('Undo', doc.undoLabel),
      keys: 'Ctrl+Z',
      binding: '$mod+z',
      run: () => stepBack(session),
    },
    {
      name: named('Redo', doc.redoLabel),
      keys: 'Ctrl+Shift+Z',
      binding: '$mod+Shift+z',
      run: () => stepForward(session),
    },
  ]
}

/** Undoes the last step, and says which it was. */
export function stepBack({ doc, notices }: Session): void {
  const label = doc.undoLabel
  doc.undo()
  if (label) notices.spoken = `Undone: ${label}`
}

export function stepForward({ doc, notices }: Session): void {
  const label = doc.redoLabel
  doc.redo()
  if (label) notices.spoken = `Redone: ${label}`
}
