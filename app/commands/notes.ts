import type { ActionGroup } from './action'

/** Notes that are played and files of them. */
export const notesActions: ActionGroup = (session) => {
  const { selection, devices } = session
  return [
    {
      name: 'Turn the computer keyboard for notes on or off',
      keys: 'Shift+P',
      binding: 'Shift+p',
      run: () => {
        devices.typesNotes = !devices.typesNotes
      },
    },
    {
      name: 'Record notes on the track, or stop',
      keys: 'Shift+R',
      binding: 'Shift+r',
      run: () => {
        if (selection.track) session.notes.record(selection.track)
      },
    },
    {
      name: 'Import notes from a MIDI file',
      keys: '',
      run: () => void session.midiFiles.choose(selection.track ?? null),
    },
    {
      name: 'Export the notes of all tracks to a MIDI file',
      keys: '',
      run: () => void session.midiFiles.save(null),
    },
  ]
}
