import { setLoop } from '@oleaje/core/project/song-edits'
import type { Action, ActionGroup } from './action'

/** Playing, looping and the tempo. */
export const transportActions: ActionGroup = (session) => {
  const { doc, monitoring } = session
  return [
    { name: 'Play or stop', keys: 'Space', binding: 'Space', run: () => void session.transport.toggle() },
    { name: 'Silence all that rings', keys: 'Q', binding: 'q', run: () => session.host.silence() },
    {
      name: 'Stop cuts tails, or lets them ring out',
      keys: '',
      run: () => {
        monitoring.stopCuts = !monitoring.stopCuts
      },
    },
    {
      name: 'Loop on or off',
      keys: 'L',
      binding: 'l',
      run: () => doc.edit('Switch the loop', setLoop({ on: !doc.project?.loop.on })),
    },
    { name: 'Tap the tempo', keys: 'Shift+B', binding: 'Shift+b', run: () => session.tempo.tap() },
    ...(['short', 'middle', 'long'] as const).map((buffer): Action => ({
      name: `Use the ${buffer} buffer at the output`,
      keys: '',
      run: () => void session.setBuffer(buffer),
    })),
  ]
}
