import type { Edit } from '@oleaje/core/project/edit'
import type { Gesture } from '@oleaje/core/project/history'
import { tryOnScopeDispose } from '@vueuse/core'
import { followPointer } from './follow-pointer'
import { useSession } from './useSession'

/** Within so long a second click makes a double click. */
const DOUBLE_CLICK_MS = 400

/**
 * The hand of one component: what it does between press and release is one undo step. It ends with the
 * component at the latest.
 */
export function useGesture() {
  const { doc } = useSession()
  let open: Gesture | null = null
  let lingering: ReturnType<typeof setTimeout> | undefined
  /** Where and when the pointer was pressed last. */
  let last: { readonly at: number; readonly x: number; readonly y: number } | null = null

  function begin(label: string): void {
    end()
    open = doc.gesture(label)
  }
  function end(): void {
    clearTimeout(lingering)
    open?.end()
    open = null
  }
  /** Takes back what the gesture under way has done. */
  function cancel(): void {
    clearTimeout(lingering)
    open?.cancel()
    open = null
  }
  /** Carries an edit out as part of the gesture under way, or as a step of its own where there is none. */
  function edit(label: string, what: Edit): void {
    if (open?.isOpen) open.edit(what)
    else doc.edit(label, what)
  }
  /**
   * Follows a pointer from its press on; all edits until it is let go or lost are one step, and Escape takes
   * them back. One that did not move may be the first half of a double click: for as long as that takes,
   * {@link cancel} takes it back as well.
   */
  function drag(
    e: PointerEvent,
    label: string,
    move: (m: PointerEvent) => void,
    done: (u: Event) => void = () => {},
  ): void {
    // the second press of a double click is no drag
    if (
      last &&
      performance.now() - last.at < DOUBLE_CLICK_MS &&
      Math.hypot(e.clientX - last.x, e.clientY - last.y) < 4
    )
      return
    last = { at: performance.now(), x: e.clientX, y: e.clientY }
    begin(label)
    let moved = false
    followPointer(
      e,
      (m) => {
        moved ||= Math.hypot(m.clientX - e.clientX, m.clientY - e.clientY) > 2
        move(m)
      },
      (u) => {
        if (moved) {
          last = null
          end()
        } else lingering = setTimeout(end, DOUBLE_CLICK_MS)
        done(u)
      },
      cancel,
    )
  }
  tryOnScopeDispose(end)
  return { begin, end, cancel, edit, drag }
}
