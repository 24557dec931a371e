/**
 * A name for a copy: the name without its number, and the first number from 2 up that none of the others has.
 * @param others names that are taken
 */
export function freeName(name: string, others: Iterable<string>): string {
  const stem = name.replace(/ \d+$/, '')
  const taken = new Set(others)
  let n = 2
  while (taken.has(`${stem} ${n}`)) n++
  return `${stem.slice(0, 100)} ${n}`
}
