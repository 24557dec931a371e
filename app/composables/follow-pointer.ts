/**
 * Follows a pointer from its press on an element until it is let go, wherever it goes meanwhile. The element is the one
 * whose listener the press came to.
 */
export function followPointer(press: PointerEvent, move: (e: PointerEvent) => void, done: (e: PointerEvent) => void = () => {}): void {
  const el = press.currentTarget as HTMLElement
  el.setPointerCapture(press.pointerId)
  const up = (e: PointerEvent): void => {
    el.removeEventListener('pointermove', move)
    el.removeEventListener('pointerup', up)
    el.removeEventListener('pointercancel', up)
    done(e)
  }
  el.addEventListener('pointermove', move)
  el.addEventListener('pointerup', up)
  el.addEventListener('pointercancel', up)
}
