// The all-passes of src/dsp/hilbert, both sides to a register. Same operations in the same order, so the same
// bits. All places are byte offsets.

/** Bytes of the last two inputs and outputs of an all-pass, both sides. */
const STATE: i32 = 64

/**
 * Makes the second copy, a sample late, and takes both through their all-passes, in place.
 * @param real left and right of each frame @param held the last of the call before
 * @param pairs of all-passes, one for each copy
 */
export function turn(
  real: i32,
  imag: i32,
  held: i32,
  coefficients: i32,
  memory: i32,
  pairs: i32,
  frames: i32,
): void {
  const bytes = 16 * frames
  v128.store(imag, v128.load(held))
  for (let at = 0; at < bytes - 16; at += 16) v128.store(imag + at, v128.load(real + at), 16)
  v128.store(held, v128.load(real + bytes - 16))
  do {
    const a = v128.load_splat<f64>(coefficients)
    const b = v128.load_splat<f64>(coefficients, 8)
    let x1 = v128.load(memory)
    let x2 = v128.load(memory, 16)
    let y1 = v128.load(memory, 32)
    let y2 = v128.load(memory, 48)
    let p1 = v128.load(memory, 64)
    let p2 = v128.load(memory, 80)
    let q1 = v128.load(memory, 96)
    let q2 = v128.load(memory, 112)
    const end = real + bytes
    let r = real
    let i = imag
    do {
      const x = v128.load(r)
      const p = v128.load(i)
      const y = f64x2.sub(f64x2.mul(a, f64x2.add(x, y2)), x2)
      const q = f64x2.sub(f64x2.mul(b, f64x2.add(p, q2)), p2)
      x2 = x1
      x1 = x
      y2 = y1
      y1 = y
      p2 = p1
      p1 = p
      q2 = q1
      q1 = q
      v128.store(r, y)
      v128.store(i, q)
      r += 16
      i += 16
    } while (r < end)
    v128.store(memory, x1)
    v128.store(memory, x2, 16)
    v128.store(memory, y1, 32)
    v128.store(memory, y2, 48)
    v128.store(memory, p1, 64)
    v128.store(memory, p2, 80)
    v128.store(memory, q1, 96)
    v128.store(memory, q2, 112)
    coefficients += 16
    memory += 2 * STATE
  } while (--pairs)
}
