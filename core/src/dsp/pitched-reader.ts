import { kernelAt, kernelSpeeds, prepareBandLimited } from './band-limited-kernel'
import { OCTAVE_GUARD, type Octaves } from './octaves'

/** Has all kernels ready that it takes. */
export const prepareReader = (): void => prepareBandLimited(2)

/**
 * Reads a sound between its samples at any speed without what would alias: from the copy of the octave below
 * that speed, by a kernel of the bandwidth that is left. Exact where speed is 1 and the place a whole one.
 * @param place in frames of the sound, from 0 to its length
 * @param into left and right
 */
export function readPitched(sound: Octaves, place: number, speed: number, into: Float64Array): void {
  let octave = 0
  let rest = speed
  while (rest >= 2 && octave + 1 < sound.copies.length) {
    rest *= 0.5
    octave++
  }
  const copy = sound.copies[octave]
  const at = place / (1 << octave)
  const n = Math.floor(at)
  const fraction = at - n
  const left = copy[0]
  const right = copy.length > 1 ? copy[1] : left
  if (speed === 1 && fraction === 0) {
    const i = n >= sound.frames ? n - sound.frames : n < 0 ? n + sound.frames : n
    into[0] = left[i]
    into[1] = right[i]
    return
  }
  let index = 0
  while (index < kernelSpeeds.length && rest > kernelSpeeds[index]) index++
  const { taps, phases, rows } = kernelAt(index)
  const phase = fraction * phases
  const p = Math.floor(phase)
  const t = phase - p
  const row = p * taps
  const next = row + taps
  let first = n - (taps >> 1) + 1
  let l = 0
  let r = 0
  if (octave > 0) first += OCTAVE_GUARD
  if (first >= 0 && first + taps <= left.length) {
    if (left === right) {
      for (let k = 0; k < taps; k++)
        l += (rows[row + k] + t * (rows[next + k] - rows[row + k])) * left[first + k]
      r = l
    } else {
      for (let k = 0; k < taps; k++) {
        const w = rows[row + k] + t * (rows[next + k] - rows[row + k])
        l += w * left[first + k]
        r += w * right[first + k]
      }
    }
  } else {
    const { length } = left
    for (let k = 0; k < taps; k++) {
      const w = rows[row + k] + t * (rows[next + k] - rows[row + k])
      const j = (first + k) % length
      const i = j < 0 ? j + length : j
      l += w * left[i]
      r += w * right[i]
    }
  }
  into[0] = l
  into[1] = r
}
