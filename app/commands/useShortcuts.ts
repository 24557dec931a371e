import { useEventListener } from '@vueuse/core'
import { tinykeys } from 'tinykeys'
import { onBeforeUnmount, onMounted } from 'vue'
import type { Action } from './action'
import { actions } from './actions'
import { regionOf } from '../focus/region'
import { noteOfKey } from '../composables/typed-keys'
import { useSession } from '../composables/useSession'

/** How long after G a letter still means a modulator. */
const LETTER_MS = 1500

/** Whether an element takes keys as text, or stands in something that is open over the page. */
const isField = (el: Element | null): boolean =>
  !!el &&
  (/^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName) ||
    (el as HTMLElement).isContentEditable ||
    !!el.closest('[role="dialog"], [role="menu"], [role="listbox"]'))

/** A sign needs Shift on some keyboard layouts and none on others; letters and digits are the same on all. */
const everyLayout = (binding: string): readonly string[] =>
  /^Shift\+[^\w]$/.test(binding) ? [binding, binding.slice(-1)] : [binding]

/** Actions by their keys: of several with the same, the focus decides. */
function byBinding(all: readonly Action[]): Map<string, Action[]> {
  const by = new Map<string, Action[]>()
  for (const a of all)
    for (const binding of a.binding ? everyLayout(a.binding) : [])
      by.set(binding, [...(by.get(binding) ?? []), a])
  return by
}

/** Elements that Space presses when they have the focus; a link is none. */
const PRESSED_BY_SPACE =
  'button, summary, [role=button], [role=switch], [role=checkbox], [role=radio], [role=tab], [role=option], [role=menuitem]'

/**
 * What is only selected by a press, and is so already when it has been clicked or walked to: Space plays
 * there.
 */
const SELECTS = '[data-node], [data-selects]'

/** The element that the pointer pressed last, until the keyboard moves the focus. */
let clicked: Element | null = null

/**
 * Whether a key is that of the control that has the focus. Space presses a button that was reached by the
 * keyboard; one that was only clicked leaves Space to Play, so that “Stop take” is not pressed again by it.
 */
function isOwnKey(e: KeyboardEvent): boolean {
  const pressed = e.key === ' ' ? (e.target as Element | null)?.closest(PRESSED_BY_SPACE) : null
  return !!pressed && !pressed.matches(SELECTS) && pressed !== clicked
}

/** The keys of all views. They never fire while someone types, or on a gauge that wants the key itself. */
export function useShortcuts(): void {
  const session = useSession()
  const { doc, selection, screen, devices } = session
  let end = (): void => {}
  // long ago: in the first moments of a page the clock itself is small
  let grabbing = -Infinity

  const typing = (e: KeyboardEvent): boolean => isField(e.target as Element | null)

  /** G, then the letter of a modulator, takes it in hand. */
  const grab = (e: KeyboardEvent): void => {
    if (typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
    if (performance.now() - grabbing < LETTER_MS && /^[a-z]$/.test(e.key)) {
      grabbing = -Infinity
      const m = doc.project?.tracks.flatMap((t) => t.modulators).find((x) => x.letter === e.key)
      if (m) {
        selection.inHand = m.id
        selection.handOutput = null
        selection.traced = m.id
      }
      e.preventDefault()
      e.stopImmediatePropagation()
    } else if (e.key === 'g') {
      grabbing = performance.now()
      e.preventDefault()
    }
  }

  /** Keys of the computer that steer something, or that are being learnt to. */
  const held = new Set<string>()
  /** Keys of the computer that play notes, by where they are; each ends on what it began. */
  const typed = new Map<string, number>()
  const playNote = (e: KeyboardEvent): boolean => {
    if (e.type === 'keyup') {
      const note = typed.get(e.code)
      if (note === undefined) return false
      typed.delete(e.code)
      session.router.take({ kind: 'note', channel: 0, number: note, value: 0 }, e.timeStamp)
      return true
    }
    if (!devices.typesNotes || screen.dialog || typing(e) || e.ctrlKey || e.metaKey || e.altKey || e.shiftKey)
      return false
    if (e.key === 'PageUp' || e.key === 'PageDown') {
      devices.typedOctave = Math.min(7, Math.max(0, devices.typedOctave + (e.key === 'PageUp' ? 1 : -1)))
      return true
    }
    const note = noteOfKey(e.code, devices.typedOctave)
    if (note === undefined) return false
    if (e.repeat || typed.has(e.code)) return true
    typed.set(e.code, note)
    session.router.take({ kind: 'note', channel: 0, number: note, value: 0.8 }, e.timeStamp)
    return true
  }
  const steer = (e: KeyboardEvent): void => {
    if (playNote(e)) {
      e.preventDefault()
      e.stopImmediatePropagation()
      return
    }
    if (e.type === 'keyup') {
      if (held.delete(e.key))
        session.router.take({ kind: 'key', channel: 0, number: 0, key: e.key, value: 0 })
      return
    }
    if (typing(e) || e.ctrlKey || e.metaKey || e.altKey || e.repeat || e.key.length > 1) return
    if (
      !devices.controlFor &&
      !doc.project?.controls.some((c) => c.message.kind === 'key' && c.message.key === e.key)
    )
      return
    held.add(e.key)
    session.router.take({ kind: 'key', channel: 0, number: 0, key: e.key, value: 1 })
    e.preventDefault()
    e.stopImmediatePropagation()
  }

  // the clipboard's own events need no permission, and leave fields and marked text to the browser
  useEventListener(document, ['copy', 'cut', 'paste'], (e: ClipboardEvent) => {
    const el = document.activeElement
    if (screen.dialog || location.pathname !== '/' || isField(el) || !e.clipboardData) return
    if (e.type !== 'paste' && getSelection()?.isCollapsed === false) return
    if (
      e.type === 'paste'
        ? session.shelf.paste(e.clipboardData.getData('text/plain'), el)
        : session.shelf.copy(e.clipboardData, el, e.type === 'cut')
    )
      e.preventDefault()
  })

  useEventListener(document, 'pointerdown', (e) => {
    clicked = (e.target as Element).closest(PRESSED_BY_SPACE)
  })
  useEventListener(
    document,
    'keydown',
    (e) => {
      if (e.key === 'Tab' || e.key === 'Enter' || e.key.startsWith('Arrow')) clicked = null
    },
    { capture: true },
  )

  onMounted(() => {
    addEventListener('keydown', steer, true)
    addEventListener('keyup', steer, true)
    addEventListener('keydown', grab, true)
    end = tinykeys(
      window,
      Object.fromEntries(
        [...byBinding(actions(session))].map(([binding, list]) => [
          binding,
          (e: KeyboardEvent) => {
            if (screen.dialog || (typing(e) && !(e.ctrlKey || e.metaKey)) || isOwnKey(e)) return
            const region = regionOf(e.target as Element | null)
            const action = list.find((a) => !a.at || (a.at.includes(region) && location.pathname === '/'))
            if (!action) return
            e.preventDefault()
            action.run()
          },
        ]),
      ),
    )
  })
  // says that keys are heard from now on
  onMounted(() => {
    document.documentElement.dataset.keys = 'heard'
  })
  onBeforeUnmount(() => {
    end()
    removeEventListener('keydown', steer, true)
    removeEventListener('keyup', steer, true)
    removeEventListener('keydown', grab, true)
  })
}
