const HIGH: f64 = 4503599627371519 // 2^52 and the exponent's bias

/** `log2` of src/dsp/math of two positive numbers: exponent, and mantissa between √½ and √2. */
export function log2(x: v128): v128 {
  const exponent = v128.or(i64x2.shr_u(x, 52), i64x2.splat(0x4330000000000000))
  let e = f64x2.sub(exponent, f64x2.splat(HIGH))
  const mantissa = v128.and(x, i64x2.splat(0x000fffffffffffff))
  let m = v128.or(mantissa, i64x2.splat(0x3ff0000000000000))
  const big = f64x2.gt(m, f64x2.splat(1.4142135623730951))
  m = v128.bitselect(f64x2.mul(m, f64x2.splat(0.5)), m, big)
  e = f64x2.add(e, v128.and(big, f64x2.splat(1)))
  const s = f64x2.div(f64x2.sub(m, f64x2.splat(1)), f64x2.add(m, f64x2.splat(1)))
  const z = f64x2.mul(s, s)
  const q = f64x2.mul(z, z)
  // Estrin's way to work out the series, as there
  let series = f64x2.mul(q, f64x2.splat(0.07692307692307693))
  series = f64x2.mul(q, f64x2.add(two(0.1111111111111111, 0.09090909090909091, z), series))
  series = f64x2.mul(q, f64x2.add(two(0.2, 0.14285714285714285, z), series))
  series = f64x2.mul(s, f64x2.add(two(1, 0.3333333333333333, z), series))
  return f64x2.add(e, f64x2.mul(f64x2.splat(2.8853900817779268), series))
}

/** `exp2` of src/dsp/math of two numbers between −1021 and 1023. */
export function exp2(x: v128): v128 {
  const n = f64x2.sub(f64x2.floor(f64x2.add(x, f64x2.splat(1074.5))), f64x2.splat(1074))
  const y = f64x2.mul(f64x2.sub(x, n), f64x2.splat(0.6931471805599453))
  const q = f64x2.mul(y, y)
  let series = two(2.48015873015873e-5, 2.7557319223985893e-6, y)
  series = f64x2.add(two(1.388888888888889e-3, 1.984126984126984e-4, y), f64x2.mul(q, series))
  series = f64x2.add(two(4.1666666666666664e-2, 8.333333333333333e-3, y), f64x2.mul(q, series))
  series = f64x2.add(two(0.5, 1.6666666666666666e-1, y), f64x2.mul(q, series))
  series = f64x2.add(f64x2.add(f64x2.splat(1), y), f64x2.mul(q, series))
  // a power of two by its exponent alone
  return f64x2.mul(series, i64x2.shl(f64x2.add(n, f64x2.splat(HIGH)), 52))
}

/** Two terms of a series. */
function two(a: f64, b: f64, x: v128): v128 {
  return f64x2.add(f64x2.splat(a), f64x2.mul(x, f64x2.splat(b)))
}
