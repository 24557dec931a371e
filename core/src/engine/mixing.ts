import { BLOCK, type ParamBlock, type StereoBlock } from '../contract/block'

// All loops here process one side at a time, so that its arrays are looked up once and not for each frame.

export const copy = (from: StereoBlock, to: StereoBlock): void => {
  to.left.set(from.left)
  to.right.set(from.right)
}

/** sum += x */
export function add(x: StereoBlock, sum: StereoBlock): void {
  addSide(x.left, sum.left)
  addSide(x.right, sum.right)
}

/** out = x · gain, with a gain for each side. */
export function amplify(x: StereoBlock, left: number, right: number, out: StereoBlock): void {
  if (left === 1) out.left.set(x.left)
  else amplifySide(x.left, left, out.left)
  if (right === 1) out.right.set(x.right)
  else amplifySide(x.right, right, out.right)
}

/**
 * out = dry + (out − dry) · weight, with the weight of each frame on the way from `w0` to `w1` times `wet`.
 */
export function mixDry(out: StereoBlock, dry: StereoBlock, w0: number, w1: number, wet: ParamBlock): void {
  if (w0 === w1 && wet.constant) {
    mixSide(out.left, dry.left, w0 * wet.value)
    mixSide(out.right, dry.right, w0 * wet.value)
    return
  }
  const wets = wet.values()
  mixMovingSide(out.left, dry.left, w0, w1, wets)
  mixMovingSide(out.right, dry.right, w0, w1, wets)
}

function addSide(x: Float32Array, sum: Float32Array): void {
  for (let i = 0; i < BLOCK; i++) sum[i] += x[i]
}

function amplifySide(x: Float32Array, gain: number, out: Float32Array): void {
  for (let i = 0; i < BLOCK; i++) out[i] = x[i] * gain
}

function mixSide(out: Float32Array, dry: Float32Array, w: number): void {
  for (let i = 0; i < BLOCK; i++) {
    const d = dry[i]
    out[i] = d + (out[i] - d) * w
  }
}

function mixMovingSide(
  out: Float32Array,
  dry: Float32Array,
  w0: number,
  w1: number,
  wets: Float64Array,
): void {
  const step = (w1 - w0) / BLOCK
  for (let i = 0; i < BLOCK; i++) {
    const d = dry[i]
    out[i] = d + (out[i] - d) * ((w0 + step * (i + 1)) * wets[i])
  }
}
