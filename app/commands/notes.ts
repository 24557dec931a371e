import type { ActionGroup } from './action'

/** Notes that are played and files of them. */
export const notesActions: ActionGroup = (session) => {
  const { selection, devices } = session
  return [
    {
      name: 'Play notes by the computer’s keys, or no more',
      keys: 'Shift+P',
      binding: 'Shift+p',
      run: () => {
        devices.typesNotes = !devices.typesNotes
      },
    },
    {
      name: 'Record notes on the track, or end the take',
      keys: 'Shift+R',
      binding: 'Shift+r',
      run: () => {
        if (selection.track) session.notes.record(selection.track)
      },
    },
    {
      name: 'Notes from a MIDI file',
      keys: '',
      run: () => void session.midiFiles.choose(selection.track ?? null),
    },
    { name: 'Notes of all tracks to a MIDI file', keys: '', run: () => void session.midiFiles.save(null) },
  ]
}
