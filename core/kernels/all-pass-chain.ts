// `run` of src/dsp/all-pass-chain, both sides to a register. Same operations in the same order, so the same
// bits. All places are byte offsets.

export function run(
  left: i32,
  right: i32,
  tangentsL: i32,
  tangentsR: i32,
  feedback: i32,
  mix: i32,
  stages: i32,
  last: i32,
  count: i32,
  frames: i32,
): void {
  const one = f64x2.splat(1)
  const two = f64x2.splat(2)
  const end = stages + 16 * count
  let back = v128.load(last)
  do {
    const x = v128.load64_lane(right, v128.load64_zero(left), 1)
    const g = v128.load64_lane(tangentsR, v128.load64_zero(tangentsL), 1)
    const a = f64x2.div(g, f64x2.add(one, g))
    let v = f64x2.add(x, f64x2.mul(v128.load_splat<f64>(feedback), back))
    for (let s = stages; s < end; s += 16) {
      const state = v128.load(s)
      const u = f64x2.mul(f64x2.sub(v, state), a)
      const low = f64x2.add(u, state)
      v128.store(s, f64x2.add(low, u))
      v = f64x2.sub(f64x2.mul(two, low), v)
    }
    back = v
    const y = f64x2.add(x, f64x2.mul(f64x2.sub(v, x), v128.load_splat<f64>(mix)))
    v128.store64_lane(left, y, 0)
    v128.store64_lane(right, y, 1)
    left += 8
    right += 8
    tangentsL += 8
    tangentsR += 8
    feedback += 8
    mix += 8
  } while (--frames)
  v128.store(last, back)
}
