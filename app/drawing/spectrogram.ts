import { BANDS } from '@oleaje/core/analysis/sound-figures'

/** Red, green and blue of a colour of the palette by its name. */
function rgb(name: string): readonly number[] {
  const hex = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim().slice(1)
  return [0, 2, 4].map((i) => Number.parseInt(hex.slice(i, i + 2), 16))
}

interface Place {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Draws a spectrogram of {@link BANDS} values 0…255 for each column: time to the right, octaves upwards. */
export function paintSpectrogram(g: CanvasRenderingContext2D, values: Uint8Array, at: Place): void {
  const columns = Math.floor(values.length / BANDS)
  const sheet = document.createElement('canvas')
  sheet.width = columns
  sheet.height = BANDS
  const on = sheet.getContext('2d')
  const image = on?.createImageData(columns, BANDS)
  if (!on || !image) return
  const [paper, water, ink] = ['sheet', 'deep', 'ink'].map(rgb) as [number[], number[], number[]]
  for (let c = 0; c < columns; c++)
    for (let b = 0; b < BANDS; b++) {
      const v = (values[c * BANDS + b] ?? 0) / 255
      const [from, to, t] = v < 0.5 ? ([paper, water, 2 * v] as const) : ([water, ink, 2 * v - 1] as const)
      const k = 4 * ((BANDS - 1 - b) * columns + c)
      for (let i = 0; i < 3; i++) image.data[k + i] = (from[i] ?? 0) + t * ((to[i] ?? 0) - (from[i] ?? 0))
      image.data[k + 3] = 255
    }
  on.putImageData(image, 0, 0)
  g.imageSmoothingEnabled = true
  g.drawImage(sheet, at.x, at.y, at.width, at.height)
}
