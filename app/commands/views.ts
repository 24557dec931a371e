import { pictureOf, responseViews } from '../stores/picture-choices'
import { focusOfGauge } from '../focus/focus-gauge'
import { BENCH, type Action, type ActionGroup } from './action'

/** Actions that change the view. */
export const viewsActions: ActionGroup = (session) => {
  const { selection, screen, preferences } = session
  return [
    { name: 'Go to Bench', keys: 'B', binding: 'b', run: () => void session.views.go('/') },
    { name: 'Go to Timeline', keys: 'T', binding: 't', run: () => void session.views.go('/timeline') },
    { name: 'Go to Links', keys: 'K', binding: 'k', run: () => void session.views.go('/links') },
    {
      name: 'Go to Try-outs',
      keys: 'Shift+V',
      binding: 'Shift+v',
      run: () => void session.views.go('/try-outs'),
    },
    { name: 'Go to Lab', keys: 'Shift+M', binding: 'Shift+m', run: () => void session.views.go('/lab') },
    { name: 'Go to Render', keys: 'R', binding: 'r', run: () => void session.views.go('/render') },
    {
      name: 'Enlarge the picture, or restore it',
      keys: 'Z',
      binding: 'z',
      at: BENCH,
      run: () => {
        screen.enlarged = !screen.enlarged
      },
    },
    {
      name: 'Switch between day and night colours',
      keys: 'N',
      binding: 'n',
      run: () => {
        preferences.night = !preferences.night
      },
    },
    {
      name: 'Go to the gauges',
      keys: 'J',
      binding: 'j',
      at: BENCH,
      run: () =>
        focusOfGauge(document.querySelector<HTMLElement>('[data-region=effect] [data-gauge]'))?.focus(),
    },
    {
      name: 'Go to the chart',
      keys: 'Shift+J',
      binding: 'Shift+j',
      at: BENCH,
      run: () => document.querySelector<HTMLElement>(`[data-node="${selection.selectedId}"]`)?.focus(),
    },
    {
      name: 'Find anything',
      keys: 'Ctrl+K',
      binding: '$mod+k',
      run: () => {
        screen.dialog = 'find'
      },
    },
    ...pictureOf.map((p): Action => ({
      name: `Show the response of ${p.text}`,
      keys: '',
      run: () => {
        screen.shows = p.value
      },
    })),
    ...responseViews.map((v): Action => ({
      name: `Response: ${v.text.toLowerCase()}`,
      keys: '',
      run: () => {
        screen.responseView = v.value
      },
    })),
    {
      name: 'Open or close the guide',
      keys: 'F1',
      binding: 'F1',
      run: () => {
        screen.guide = !screen.guide
      },
    },
    {
      name: 'Show the first steps',
      keys: '',
      run: () => {
        preferences.firstSteps = { done: [], hidden: false }
      },
    },
    {
      name: 'List all keys',
      keys: '?',
      binding: 'Shift+?',
      run: () => {
        screen.dialog = 'keys'
      },
    },
    {
      name: 'Licences',
      keys: '',
      run: () => {
        screen.dialog = 'licences'
      },
    },
  ]
}
