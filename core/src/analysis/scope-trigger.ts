/**
 * Where a picture of a wave begins, so that it stands still from one to the next: at the latest rising
 * crossing of a level before which the signal was clearly below it. Positions are in frames before `end`,
 * fractions between two frames included.
 * @param frames that must follow the crossing
 * @param level that is crossed
 * @param margin by which the signal must have been below it before, so that noise about the level starts
 *   nothing
 * @returns null where nothing crosses within the ring
 */
export function crossingBefore(
  ring: Float32Array,
  end: number,
  frames: number,
  level: number,
  margin: number,
): number | null {
  const n = ring.length
  const at = (back: number): number => ring[(end - back + 2 * n) % n]
  for (let back = Math.ceil(frames) + 1; back < n - 2; back++) {
    if (at(back) < level || at(back + 1) >= level) continue
    // further back it must have been below by the margin before it was above
    let k = back + 1
    while (k < n - 1 && at(k) < level && at(k) > level - margin) k++
    if (at(k) > level - margin) continue
    const low = at(back + 1),
      high = at(back)
    return back + (high - level) / (high - low)
  }
  return null
}

/**
 * Frames since the latest beat (of those `every` beats apart) that is at least `frames` ago; null where it
 * has left the ring.
 */
export function beatBefore(
  beat: number,
  framesPerBeat: number,
  frames: number,
  ringFrames: number,
  every = 1,
): number | null {
  let back = (beat - Math.floor(beat / every) * every) * framesPerBeat
  while (back < frames) back += every * framesPerBeat
  return back <= ringFrames - 4 ? back : null
}
