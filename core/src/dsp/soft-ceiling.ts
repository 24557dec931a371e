/** As it is up to +18 dBFS; what piles up beyond that is held below +24 dBFS. */
export function bounded(x: number): number {
  const a = x < 0 ? -x : x
  if (a <= 8) return x
  const y = 8 + 7.5 * (1 - 1 / (1 + (a - 8) / 7.5))
  return x < 0 ? -y : y
}
