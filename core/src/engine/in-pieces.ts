/** How many items make one piece of work. */
const AT_ONCE = 4

/** Does light work a few items at a time, and gives way after each few. */
export function* inPieces<T>(list: Iterable<T>, work: (item: T) => void): Generator<void, void> {
  let count = 0
  for (const item of list) {
    if (count++ % AT_ONCE === 0) yield
    work(item)
  }
}
