import { focusOfGauge, gaugeAt } from '../focus/focus-gauge'
import { modulators } from '@oleaje/core/modulators/index'
import { duplicateModulator, removeModulator } from '@oleaje/core/project/motion-edits'
import type { Modulator } from '@oleaje/core/project/schema'
import type { Session } from '../services/session'
import type { Action, ActionGroup } from './action'

/** Modulators, links by hand, rides and controls. */
export const motionActions: ActionGroup = (session) => {
  const { doc, selection, screen, devices } = session
  return [
    {
      name: 'Remove the focused modulator or macro',
      keys: 'Delete',
      binding: 'Delete',
      at: ['modulators'],
      run: () => focusedModulator(session, (m) => doc.edit(`Remove ${m.name}`, removeModulator(m.id))),
    },
    {
      name: 'Duplicate the focused modulator or macro',
      keys: 'D',
      binding: 'd',
      at: ['modulators'],
      run: () =>
        focusedModulator(session, (m) => doc.edit(`Duplicate ${m.name}`, duplicateModulator(m.id, true))),
    },
    { name: 'Start linking a modulator', keys: 'G and its letter', run: () => {} },
    {
      name: 'Stop linking',
      keys: 'Esc',
      binding: 'Escape',
      run: () => {
        selection.inHand = null
        selection.handOutput = null
        selection.marked = []
        selection.learning = null
        devices.controlFor = null
        selection.repointing = null
      },
    },
    {
      name: 'Select the gauge, to link several at once',
      keys: 'Shift+click, or Shift+Space',
      run: () => {},
    },
    {
      name: 'List the modulators for the pointed gauge',
      keys: 'M',
      binding: 'm',
      run: () => {
        const gauge = selection.pointed?.target
        const el = gauge ? focusOfGauge(gaugeAt(gauge)) : undefined
        el?.focus()
        // the gauge has the key itself
        el?.dispatchEvent(new KeyboardEvent('keydown', { key: 'm', bubbles: true }))
      },
    },
    {
      name: 'Record a ride of the focused gauge, or stop',
      keys: 'W',
      binding: 'w',
      run: () => session.automation.toggle(focusedGauge()),
    },
    {
      name: 'Assign a controller to the focused gauge',
      keys: 'I',
      binding: 'i',
      run: () => {
        devices.controlFor = devices.controlFor ? null : focusedGauge()
      },
    },
    {
      name: 'Show the controller',
      keys: 'U',
      binding: 'u',
      run: () => {
        screen.deviceShown = !screen.deviceShown
      },
    },
    ...modulators.map((m): Action => ({
      name: `Add ${/^[aeiou]|^lfo/i.test(m.name) ? 'an' : 'a'} ${m.name === 'LFO' ? 'LFO' : m.name.toLowerCase()}`,
      keys: '',
      run: () => session.addModulator(m.id),
    })),
  ]
}

/** The gauge that has the focus, as `owner.path`. */
const focusedGauge = (): string | null =>
  document.activeElement?.closest<HTMLElement>('[data-gauge]')?.dataset.gauge ?? null

/** The modulator on whose card or macro the focus is. */
function focusedModulator({ doc }: Session, act: (modulator: Modulator) => void): void {
  const id = document.activeElement?.closest<HTMLElement>('[data-modulator]')?.dataset.modulator
  const modulator = doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)
  if (modulator) act(modulator)
}
