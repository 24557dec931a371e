import type { ActionGroup } from './action'

/** Steps back and forth. */
export const historyActions: ActionGroup = (session) => {
  const { doc } = session
  return [
    { name: 'Undo', keys: 'Ctrl+Z', binding: '$mod+z', run: () => doc.undo() },
    { name: 'Redo', keys: 'Ctrl+Shift+Z', binding: '$mod+Shift+z', run: () => doc.redo() },
  ]
}
