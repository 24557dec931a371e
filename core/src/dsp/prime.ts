/** The smallest odd prime from `n` on. */
export function prime(n: number): number {
  for (let p = n | 1; ; p += 2) {
    let d = 3
    while (d * d <= p && p % d) d += 2
    if (d * d > p) return p
  }
}
