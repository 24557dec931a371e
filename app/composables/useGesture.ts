import type { Edit } from '@oleaje/core/project/edit'
import type { Gesture } from '@oleaje/core/project/history'
import { tryOnScopeDispose } from '@vueuse/core'
import { followPointer } from './follow-pointer'
import { useSession } from './useSession'

/** The hand of one component: what it does between press and release is one undo step. It ends with the component at the latest. */
export function useGesture() {
  const { doc } = useSession()
  let open: Gesture | null = null

  function begin(label: string): void {
    end()
    open = doc.gesture(label)
  }
  function end(): void {
    open?.end()
    open = null
  }
  /** Carries an edit out as part of the gesture under way, or as a step of its own where there is none. */
  function edit(label: string, what: Edit): void {
    if (open?.isOpen) open.edit(what)
    else doc.edit(label, what)
  }
  /** Follows a pointer from its press on; all edits until it is let go or lost are one step. */
  function drag(e: PointerEvent, label: string, move: (m: PointerEvent) => void, done: (u: Event) => void = () => {}): void {
    begin(label)
    followPointer(e, move, (u) => {
      end()
      done(u)
    })
  }
  tryOnScopeDispose(end)
  return { begin, end, edit, drag }
}
