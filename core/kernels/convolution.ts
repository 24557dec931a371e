// The direct taps of src/dsp/convolution, sixteen outputs at a time, two to a register. Same operations in
// the same order for each output, so the same bits. All places are byte offsets.

/**
 * Adds to each output Σ taps[k] · line[k before it], k rising. @param frames a multiple of sixteen
 * @param line the place of the first of these frames in what came in
 */
export function direct(taps: i32, count: i32, line: i32, out: i32, frames: i32): void {
  do {
    let a = v128.load(out)
    let b = v128.load(out, 16)
    let c = v128.load(out, 32)
    let d = v128.load(out, 48)
    let e = v128.load(out, 64)
    let f = v128.load(out, 80)
    let g = v128.load(out, 96)
    let h = v128.load(out, 112)
    let x = line
    const end = taps + 8 * count
    for (let at = taps; at < end; at += 8, x -= 8) {
      const t = v128.load_splat<f64>(at)
      a = f64x2.add(a, f64x2.mul(t, v128.load(x)))
      b = f64x2.add(b, f64x2.mul(t, v128.load(x, 16)))
      c = f64x2.add(c, f64x2.mul(t, v128.load(x, 32)))
      d = f64x2.add(d, f64x2.mul(t, v128.load(x, 48)))
      e = f64x2.add(e, f64x2.mul(t, v128.load(x, 64)))
      f = f64x2.add(f, f64x2.mul(t, v128.load(x, 80)))
      g = f64x2.add(g, f64x2.mul(t, v128.load(x, 96)))
      h = f64x2.add(h, f64x2.mul(t, v128.load(x, 112)))
    }
    v128.store(out, a)
    v128.store(out, b, 16)
    v128.store(out, c, 32)
    v128.store(out, d, 48)
    v128.store(out, e, 64)
    v128.store(out, f, 80)
    v128.store(out, g, 96)
    v128.store(out, h, 112)
    line += 128
    out += 128
    frames -= 16
  } while (frames)
}
