import { nextTick } from 'vue'

/** Frames that a view or a row far down may take to appear. */
const FRAMES = 20

/**
 * Puts the focus on what a change leads to as soon as the page holds it: in the same task as the change, so
 * that no key can come between. What appears only some frames later, as a row that is scrolled to or another
 * view, is waited for, unless the hand presses something meanwhile: then the focus is where the hand put it.
 */
export async function focusWhenShown(find: () => HTMLElement | null | undefined): Promise<void> {
  await nextTick()
  ;(find() ?? (await appearing(find)))?.focus()
}

function appearing(find: () => HTMLElement | null | undefined): Promise<HTMLElement | null> {
  const hand = new AbortController()
  for (const kind of ['keydown', 'pointerdown'])
    addEventListener(kind, () => hand.abort(), { capture: true, signal: hand.signal })
  return new Promise((done) => {
    const look = (left: number): void => {
      const el = hand.signal.aborted ? null : find()
      if (!el && left > 0 && !hand.signal.aborted) requestAnimationFrame(() => look(left - 1))
      else {
        hand.abort()
        done(el ?? null)
      }
    }
    look(FRAMES)
  })
}
