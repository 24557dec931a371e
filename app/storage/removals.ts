/**
 * Held by each tab in which a removal may still be taken back, and for a moment by who gives the room of
 * sounds back.
 */
const LOCK = 'oleaje-removals'

/**
 * Removes something of which the sounds must stay, whichever tab looks for unused ones, until what this gives
 * is called or the tab is gone. Where the browser has no locks, a tab knows of its own removals alone.
 * @throws what `remove` throws
 */
export async function removeForNow(remove: () => Promise<unknown>): Promise<() => void> {
  const letGo = await hold()
  try {
    await remove()
    return letGo
  } catch (error) {
    letGo()
    throw error
  }
}

function hold(): Promise<() => void> {
  if (!('locks' in navigator)) return Promise.resolve(() => {})
  return new Promise((resolve) => {
    void navigator.locks.request(LOCK, { mode: 'shared' }, () => new Promise<void>((letGo) => resolve(letGo)))
  })
}

/**
 * Gives the room of unused sounds back, unless something that was removed may still be taken back in some
 * tab; then `later`.
 */
export function unlessForNow<T>(sweep: () => Promise<T>, later: T): Promise<T> {
  if (!('locks' in navigator)) return sweep()
  return navigator.locks.request(LOCK, { ifAvailable: true }, (lock) =>
    lock ? sweep() : later,
  ) as Promise<T>
}
