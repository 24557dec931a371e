import { BAND_NUMBERS } from './matched-band'

/** Samples of a stride, over which the numbers of a stage go straight from one design to the next. */
export const STRIDE = 16

/** The plain case of {@link run}: both sides alike, in place. */
export function runBoth(left: Float64Array, right: Float64Array, start: number, now: Float64Array, next: Float64Array, at: number, state: Float64Array, memory: number): void {
  let g = now[at], k = now[at + 1], a = now[at + 2], b = now[at + 3], c = now[at + 4]
  const dg = (next[at] - g) / STRIDE, dk = (next[at + 1] - k) / STRIDE, da = (next[at + 2] - a) / STRIDE, db = (next[at + 3] - b) / STRIDE, dc = (next[at + 4] - c) / STRIDE
  let l1 = state[memory], l2 = state[memory + 1], r1 = state[memory + 2], r2 = state[memory + 3]
  for (let i = start; i < start + STRIDE; i++) {
    g += dg
    k += dk
    a += da
    b += db
    c += dc
    const d = 1 / (1 + g * (g + k))
    const x = left[i]
    const y = right[i]
    const lv = d * (l1 + g * (x - l2))
    const rv = d * (r1 + g * (y - r2))
    const ll = l2 + g * lv
    const rl = r2 + g * rv
    l1 = 2 * lv - l1
    r1 = 2 * rv - r1
    l2 = 2 * ll - l2
    r2 = 2 * rl - r2
    left[i] = a * x + b * lv + c * ll
    right[i] = a * y + b * rv + c * rl
  }
  state[memory] = l1
  state[memory + 1] = l2
  state[memory + 2] = r1
  state[memory + 3] = r2
  for (let n = 0; n < BAND_NUMBERS; n++) now[at + n] = next[at + n]
}

/** Two stages one after the other, as {@link runBoth}. */
export function runTwo(left: Float64Array, right: Float64Array, start: number, now: Float64Array, next: Float64Array, at: number, then: number, state: Float64Array, memory: number, memory2: number): void {
  let g = now[at], k = now[at + 1], a = now[at + 2], b = now[at + 3], c = now[at + 4]
  let g2 = now[then], k2 = now[then + 1], a2 = now[then + 2], b2 = now[then + 3], c2 = now[then + 4]
  const dg = (next[at] - g) / STRIDE, dk = (next[at + 1] - k) / STRIDE, da = (next[at + 2] - a) / STRIDE, db = (next[at + 3] - b) / STRIDE, dc = (next[at + 4] - c) / STRIDE
  const dg2 = (next[then] - g2) / STRIDE, dk2 = (next[then + 1] - k2) / STRIDE, da2 = (next[then + 2] - a2) / STRIDE, db2 = (next[then + 3] - b2) / STRIDE, dc2 = (next[then + 4] - c2) / STRIDE
  let l1 = state[memory], l2 = state[memory + 1], r1 = state[memory + 2], r2 = state[memory + 3]
  let m1 = state[memory2], m2 = state[memory2 + 1], s1 = state[memory2 + 2], s2 = state[memory2 + 3]
  for (let i = start; i < start + STRIDE; i++) {
    g += dg
    k += dk
    a += da
    b += db
    c += dc
    const d = 1 / (1 + g * (g + k))
    const x = left[i]
    const y = right[i]
    const lv = d * (l1 + g * (x - l2))
    const rv = d * (r1 + g * (y - r2))
    const ll = l2 + g * lv
    const rl = r2 + g * rv
    l1 = 2 * lv - l1
    r1 = 2 * rv - r1
    l2 = 2 * ll - l2
    r2 = 2 * rl - r2
    g2 += dg2
    k2 += dk2
    a2 += da2
    b2 += db2
    c2 += dc2
    const e = 1 / (1 + g2 * (g2 + k2))
    const u = a * x + b * lv + c * ll
    const v = a * y + b * rv + c * rl
    const mv = e * (m1 + g2 * (u - m2))
    const sv = e * (s1 + g2 * (v - s2))
    const ml = m2 + g2 * mv
    const sl = s2 + g2 * sv
    m1 = 2 * mv - m1
    s1 = 2 * sv - s1
    m2 = 2 * ml - m2
    s2 = 2 * sl - s2
    left[i] = a2 * u + b2 * mv + c2 * ml
    right[i] = a2 * v + b2 * sv + c2 * sl
  }
  state[memory] = l1
  state[memory + 1] = l2
  state[memory + 2] = r1
  state[memory + 3] = r2
  state[memory2] = m1
  state[memory2 + 1] = m2
  state[memory2 + 2] = s1
  state[memory2 + 3] = s2
  for (let n = 0; n < BAND_NUMBERS; n++) {
    now[at + n] = next[at + n]
    now[then + n] = next[then + n]
  }
}

/**
 * One stage over a stride, numbers going from `now` to `next`. `how`: 0 in place; 1 its difference is added to the sums;
 * 2 its band alone is. `place`: both, middle, sides, left, right.
 */
export function run(
  left: Float64Array, right: Float64Array, sumL: Float64Array, sumR: Float64Array, how: number, start: number,
  now: Float64Array, next: Float64Array, l: number, r: number, state: Float64Array, at: number, place: number,
): void {
  let gl = now[l], kl = now[l + 1], al = now[l + 2], bl = now[l + 3], cl = now[l + 4]
  let gr = now[r], kr = now[r + 1], ar = now[r + 2], br = now[r + 3], cr = now[r + 4]
  const dgl = (next[l] - gl) / STRIDE, dkl = (next[l + 1] - kl) / STRIDE, dal = (next[l + 2] - al) / STRIDE, dbl = (next[l + 3] - bl) / STRIDE, dcl = (next[l + 4] - cl) / STRIDE
  const dgr = (next[r] - gr) / STRIDE, dkr = (next[r + 1] - kr) / STRIDE, dar = (next[r + 2] - ar) / STRIDE, dbr = (next[r + 3] - br) / STRIDE, dcr = (next[r + 4] - cr) / STRIDE
  let l1 = state[at], l2 = state[at + 1], r1 = state[at + 2], r2 = state[at + 3]
  const matrix = place === 1 || place === 2
  for (let i = start; i < start + STRIDE; i++) {
    gl += dgl
    kl += dkl
    al += dal
    bl += dbl
    cl += dcl
    gr += dgr
    kr += dkr
    ar += dar
    br += dbr
    cr += dcr
    // middle and sides stand in for left and right where the band works on one of them
    const x = matrix ? 0.5 * (left[i] + right[i]) : left[i]
    const y = matrix ? 0.5 * (left[i] - right[i]) : right[i]
    const lv = (l1 + gl * (x - l2)) / (1 + gl * (gl + kl))
    const ll = l2 + gl * lv
    const rv = (r1 + gr * (y - r2)) / (1 + gr * (gr + kr))
    const rl = r2 + gr * rv
    l1 = 2 * lv - l1
    l2 = 2 * ll - l2
    r1 = 2 * rv - r1
    r2 = 2 * rl - r2
    let fx = how === 2 ? kl * lv : al * x + bl * lv + cl * ll
    let fy = how === 2 ? kr * rv : ar * y + br * rv + cr * rl
    const off = how === 2 ? 0 : 1
    if (place === 2 || place === 4) fx = off * x
    if (place === 1 || place === 3) fy = off * y
    const u = matrix ? fx + fy : fx
    const v = matrix ? fx - fy : fy
    if (how === 0) {
      left[i] = u
      right[i] = v
    } else {
      sumL[i] += how === 1 ? u - left[i] : u
      sumR[i] += how === 1 ? v - right[i] : v
    }
  }
  state[at] = l1
  state[at + 1] = l2
  state[at + 2] = r1
  state[at + 3] = r2
  for (let n = 0; n < BAND_NUMBERS; n++) {
    now[l + n] = next[l + n]
    now[r + n] = next[r + n]
  }
}
