/**
 * Follows a pointer from its press on an element until it is let go, wherever it goes meanwhile. The element
 * is the one whose listener the press came to. A pointer that is lost (capture taken away, window left by a
 * key) counts as let go.
 * @param cancel called instead of `done` where Escape ends it
 */
export function followPointer(
  press: PointerEvent,
  move: (e: PointerEvent) => void,
  done: (e: Event) => void = () => {},
  cancel?: () => void,
): void {
  const el = press.currentTarget as HTMLElement
  el.setPointerCapture(press.pointerId)
  const ends = ['pointerup', 'pointercancel', 'lostpointercapture'] as const
  let last = false
  const leave = (): boolean => {
    if (last) return false
    last = true
    el.removeEventListener('pointermove', move)
    for (const type of ends) el.removeEventListener(type, up)
    removeEventListener('blur', up)
    removeEventListener('keydown', key, true)
    return true
  }
  const up = (e: Event): void => {
    if (leave()) done(e)
  }
  const key = (e: KeyboardEvent): void => {
    if (e.key !== 'Escape' || !cancel || !leave()) return
    e.preventDefault()
    e.stopImmediatePropagation()
    cancel()
  }
  el.addEventListener('pointermove', move)
  for (const type of ends) el.addEventListener(type, up)
  addEventListener('blur', up)
  addEventListener('keydown', key, true)
}
