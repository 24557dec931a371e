import { setLoop } from '@oleaje/core/project/song-edits'
import type { Action, ActionGroup } from './action'

/** Playing, looping and the tempo. */
export const transportActions: ActionGroup = (session) => {
  const { doc, monitoring } = session
  return [
    { name: 'Play or stop', keys: 'Space', binding: 'Space', run: () => void session.transport.toggle() },
    { name: 'Stop all tails', keys: 'Q', binding: 'q', run: () => session.host.silence() },
    {
      name: 'Cut tails on stop, or let them ring out',
      keys: '',
      run: () => {
        monitoring.stopCuts = !monitoring.stopCuts
      },
    },
    {
      name: 'Turn the loop on or off',
      keys: 'L',
      binding: 'l',
      run: () => doc.edit('Turn loop on or off', setLoop({ on: !doc.project?.loop.on })),
    },
    { name: 'Tap tempo', keys: 'Shift+B', binding: 'Shift+b', run: () => session.tempo.tap() },
    ...(['short', 'middle', 'long'] as const).map((buffer): Action => ({
      name: `Use the ${buffer} buffer at the output`,
      keys: '',
      run: () => void session.setBuffer(buffer),
    })),
  ]
}
