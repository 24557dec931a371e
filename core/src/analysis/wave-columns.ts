/**
 * The lowest and the highest sample of each column of a picture of a wave, over all channels.
 * @param channels samples by channel, of which the first is frame `first` of the sound
 * @param from first frame that is shown, a fraction allowed
 * @param to frame after the last, more than `from`
 * @param out lowest and highest in turn, two values for each column; 0 and 0 where nothing is at hand.
 *   Columns meet: each
 *   begins with the frame that the one before ends with.
 */
export function waveColumns(
  channels: readonly Float32Array[],
  first: number,
  from: number,
  to: number,
  out: Float32Array,
): void {
  const columns = out.length / 2
  const perColumn = (to - from) / columns
  for (let i = 0; i < columns; i++) {
    const a = Math.floor(from + i * perColumn) - first
    const b = Math.floor(from + (i + 1) * perColumn) - first
    let low = Infinity
    let high = -Infinity
    for (const x of channels) {
      const end = Math.min(x.length - 1, b)
      for (let f = Math.max(0, a); f <= end; f++) {
        const v = x[f] as number
        if (v < low) low = v
        if (v > high) high = v
      }
    }
    out[2 * i] = low <= high ? low : 0
    out[2 * i + 1] = low <= high ? high : 0
  }
}
