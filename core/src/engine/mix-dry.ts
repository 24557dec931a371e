import { BLOCK, ParamBlock, type StereoBlock } from './block'

export const copy = (from: StereoBlock, to: StereoBlock): void => {
  to.left.set(from.left)
  to.right.set(from.right)
}

/** out = dry + (out − dry) · weight, with the weight of each frame on the way from `w0` to `w1` times `wet`. */
export function mixDry(out: StereoBlock, dry: StereoBlock, w0: number, w1: number, wet: ParamBlock): void {
  const step = (w1 - w0) / BLOCK
  const moving = wet.constant ? null : wet.buffer
  const still = wet.value
  for (let i = 0; i < BLOCK; i++) {
    const w = (w0 + step * (i + 1)) * (moving ? moving[i] : still)
    out.left[i] = dry.left[i] + (out.left[i] - dry.left[i]) * w
    out.right[i] = dry.right[i] + (out.right[i] - dry.right[i]) * w
  }
}
