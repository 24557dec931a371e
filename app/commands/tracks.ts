import { sourceDefinition, sources } from '@oleaje/core/sources/index'
import { hear, removeTrack } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import type { Session } from '../services/session'
import type { Action, ActionGroup } from './action'

/** Tracks and what they hear. */
export const tracksActions: ActionGroup = (session) => {
  const { doc, selection } = session
  return [
    {
      name: 'Switch A/B',
      keys: 'C',
      binding: 'c',
      run: () => {
        const t = selection.track
        // what is heard is no step of the history
        if (t) doc.edit('Switch A/B', hear(t.id, t.heard === 'a' ? 'b' : 'a'), true)
      },
    },
    {
      name: 'Remove the focused track',
      keys: 'Delete',
      binding: 'Delete',
      at: ['tracks'],
      run: () => focusedTrack(session, (t) => doc.edit(`Remove track ${t.name}`, removeTrack(t.id))),
    },
    {
      name: 'Duplicate the focused track',
      keys: 'D',
      binding: 'd',
      at: ['tracks'],
      run: () => focusedTrack(session, (t) => session.shelf.duplicateTrack(t.id)),
    },
    {
      name: 'Record the track, or stop',
      keys: 'Shift+T',
      binding: 'Shift+t',
      run: () => {
        if (selection.track) void session.takes.toggle(selection.track)
      },
    },
    { name: 'Add a bus', keys: '', run: () => session.library.addBus() },
    ...sources.flatMap(({ id, begins }): Action[] =>
      begins
        ? [
            {
              name: `Add a track: ${begins.label.toLowerCase()}`,
              keys: '',
              run: () => session.library.addSource(id),
            },
          ]
        : [],
    ),
    {
      name: 'Turn the live input on or off',
      keys: '',
      run: () => {
        const { track } = selection
        if (track?.source && sourceDefinition(track.source.type)?.device) void session.input.toggle(track)
      },
    },
  ]
}

/** The track whose line has the focus. */
function focusedTrack({ doc }: Session, act: (track: Track) => void): void {
  const id = document.activeElement?.closest<HTMLElement>('[data-track]')?.dataset.track
  const track = doc.project?.tracks.find((t) => t.id === id && t.kind === 'track')
  if (track) act(track)
}
