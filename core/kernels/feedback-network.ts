import { integerOf } from './integers'
import { sincRow, sincSums } from './sinc-row'

// The loops of src/dsp/feedback-network, two lines to a register. Same operations in the same order, so the
// same bits. All places are byte offsets; the blocks of a pair of lines stand frame by frame.

/** Bytes of the block of a pair of lines. */
const PAIR: usize = 2048

/** A pair of lines, each read from its place on. */
export function still(lineA: i32, lineB: i32, mask: i32, fromA: i32, fromB: i32, y: i32, frames: i32): void {
  do {
    const pair = v128.load32_lane(
      lineB + ((fromB & mask) << 2),
      v128.load32_zero(lineA + ((fromA & mask) << 2)),
      1,
    )
    v128.store(y, f64x2.promote_low_f32x4(pair))
    fromA++
    fromB++
    y += 16
  } while (--frames)
}

/** One line, read at a place that moves evenly. */
export function moving(
  line: i32,
  mask: i32,
  at: i32,
  first: f64,
  step: f64,
  y: i32,
  frames: i32,
  table: i32,
): void {
  for (let i: f64 = 0; frames; i++, at++, y += 16, frames--) {
    const delay = f64x2.splat(first + step * i)
    const whole = f64x2.floor(delay)
    const from = line + (((at - integerOf(whole)) & mask) << 2)
    const sums = sincSums(sincRow(table, delay, whole), from)
    const pairs = f32x4.add(sums, v128.shuffle<f32>(sums, sums, 2, 3, 2, 3))
    const sum = f32x4.add(pairs, v128.shuffle<f32>(pairs, pairs, 1, 1, 1, 1))
    v128.store64_lane(y, f64x2.promote_low_f32x4(sum), 0)
  }
}

/** Adds a pair to the output, and takes it through its filters, in place. */
export function absorb(y: i32, out: i32, sign: f64, filters: i32, state: i32, frames: i32): void {
  const s = f64x2.splat(sign)
  const a0 = v128.load(filters)
  const a1 = v128.load(filters, 16)
  const a2 = v128.load(filters, 32)
  const b0 = v128.load(filters, 48)
  const b1 = v128.load(filters, 64)
  const b2 = v128.load(filters, 80)
  let x1 = v128.load(state)
  let y1 = v128.load(state, 16)
  let z1 = v128.load(state, 32)
  do {
    const x = v128.load(y)
    v128.store(out, f64x2.add(v128.load(out), f64x2.mul(s, x)))
    const a = f64x2.sub(f64x2.add(f64x2.mul(a0, x), f64x2.mul(a1, x1)), f64x2.mul(a2, y1))
    z1 = f64x2.sub(f64x2.add(f64x2.mul(b0, a), f64x2.mul(b1, y1)), f64x2.mul(b2, z1))
    x1 = x
    y1 = a
    v128.store(y, z1)
    y += 16
    out += 16
  } while (--frames)
  v128.store(state, x1)
  v128.store(state, y1, 16)
  v128.store(state, z1, 32)
}

/** Hadamard transform of all lines, and what comes of it and of the input back into them from `at` on. */
export function mix(y: i32, left: i32, right: i32, at: i32, stride: i32, frames: i32): void {
  do {
    // within each pair, then across them
    const p0 = butterfly(v128.load(y))
    const p1 = butterfly(v128.load(y, PAIR))
    const p2 = butterfly(v128.load(y, 2 * PAIR))
    const p3 = butterfly(v128.load(y, 3 * PAIR))
    const p4 = butterfly(v128.load(y, 4 * PAIR))
    const p5 = butterfly(v128.load(y, 5 * PAIR))
    const p6 = butterfly(v128.load(y, 6 * PAIR))
    const p7 = butterfly(v128.load(y, 7 * PAIR))
    const q0 = f64x2.add(p0, p1)
    const q1 = f64x2.sub(p0, p1)
    const q2 = f64x2.add(p2, p3)
    const q3 = f64x2.sub(p2, p3)
    const q4 = f64x2.add(p4, p5)
    const q5 = f64x2.sub(p4, p5)
    const q6 = f64x2.add(p6, p7)
    const q7 = f64x2.sub(p6, p7)
    const r0 = f64x2.add(q0, q2)
    const r2 = f64x2.sub(q0, q2)
    const r1 = f64x2.add(q1, q3)
    const r3 = f64x2.sub(q1, q3)
    const r4 = f64x2.add(q4, q6)
    const r6 = f64x2.sub(q4, q6)
    const r5 = f64x2.add(q5, q7)
    const r7 = f64x2.sub(q5, q7)
    const input = v128.load64_lane(right, v128.load64_zero(left), 1)
    let a = at
    a = feed(a, stride, f64x2.add(r0, r4), input)
    a = feed(a, stride, f64x2.add(r1, r5), input)
    a = feed(a, stride, f64x2.add(r2, r6), input)
    a = feed(a, stride, f64x2.add(r3, r7), input)
    a = feed(a, stride, f64x2.sub(r0, r4), input)
    a = feed(a, stride, f64x2.sub(r1, r5), input)
    a = feed(a, stride, f64x2.sub(r2, r6), input)
    feed(a, stride, f64x2.sub(r3, r7), input)
    y += 16
    left += 8
    right += 8
    at += 4
  } while (--frames)
}

/** Sum and difference of both numbers. */
function butterfly(x: v128): v128 {
  const flip = i64x2(0, 0x8000000000000000)
  return f64x2.add(v128.shuffle<f64>(x, x, 0, 0), v128.xor(flip, v128.shuffle<f64>(x, x, 1, 1)))
}

/** Writes a pair, and gives the place of the next. */
function feed(at: i32, stride: i32, mixed: v128, input: v128): i32 {
  const s = f32x4.demote_f64x2_zero(f64x2.add(f64x2.mul(f64x2.splat(0.25), mixed), input))
  v128.store32_lane(at, s, 0)
  v128.store32_lane(at + stride, s, 1)
  return at + 2 * stride
}
