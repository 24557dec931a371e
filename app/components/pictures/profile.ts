import type { Pen } from '../../composables/useCanvas'

/** The sheet that a depth profile is drawn on: margins, grid, figures, and ways from values to pixels. */
export interface Sheet {
  readonly x: (v: number) => number
  readonly y: (v: number) => number
  readonly left: number
  readonly right: number
  readonly top: number
  readonly bottom: number
}

interface Axis {
  readonly min: number
  readonly max: number
  readonly log?: boolean
  readonly marks: readonly (readonly [number, string])[]
}

export function drawSheet({ g, width, height, color }: Pen, xAxis: Axis, yAxis: Axis): Sheet {
  const left = 34
  const right = width - 6
  const top = 8
  const bottom = height - 20
  const part = (a: Axis, v: number): number =>
    a.log ? Math.log(v / a.min) / Math.log(a.max / a.min) : (v - a.min) / (a.max - a.min)
  const sheet: Sheet = {
    left,
    right,
    top,
    bottom,
    x: (v) => left + part(xAxis, v) * (right - left),
    y: (v) => bottom - part(yAxis, v) * (bottom - top),
  }
  g.strokeStyle = color('line')
  g.fillStyle = color('second')
  g.lineWidth = 1
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textBaseline = 'middle'
  for (const [v, text] of xAxis.marks) {
    const x = Math.round(sheet.x(v)) + 0.5
    line(g, x, top, x, bottom)
    g.textAlign = x > right - 14 ? 'right' : 'center'
    g.fillText(text, x, height - 8)
  }
  g.textAlign = 'right'
  for (const [v, text] of yAxis.marks) {
    const y = Math.round(sheet.y(v)) + 0.5
    line(g, left, y, right, y)
    g.fillText(text, left - 5, y)
  }
  return sheet
}

export function line(g: CanvasRenderingContext2D, x0: number, y0: number, x1: number, y1: number): void {
  g.beginPath()
  g.moveTo(x0, y0)
  g.lineTo(x1, y1)
  g.stroke()
}

export interface CurveStyle {
  readonly color: string
  readonly width?: number
  readonly dash?: readonly number[]
  readonly fill?: string
}

/**
 * A curve over the width of the sheet: `f` gives the pixel height at a pixel place. Filled down to the ground
 * where asked.
 */
export function drawCurve({ g }: Pen, s: Sheet, f: (x: number) => number, style: CurveStyle): void {
  g.save()
  g.beginPath()
  g.rect(s.left, s.top, s.right - s.left, s.bottom - s.top)
  g.clip()
  g.beginPath()
  for (let x = s.left; x <= s.right; x += 2) {
    const y = f(x)
    if (x === s.left) g.moveTo(x, y)
    else g.lineTo(x, y)
  }
  g.strokeStyle = style.color
  g.lineWidth = style.width ?? 1.5
  g.setLineDash(style.dash ? [...style.dash] : [])
  g.stroke()
  if (style.fill) {
    g.lineTo(s.right + 2, s.bottom)
    g.lineTo(s.left, s.bottom)
    g.closePath()
    g.fillStyle = style.fill
    g.globalAlpha = 0.75
    g.fill()
  }
  g.restore()
}

/** Frequency at a pixel of a logarithmic sheet. */
export const frequencyAt = (s: Sheet, x: number, min: number, max: number): number =>
  min * (max / min) ** ((x - s.left) / (s.right - s.left))

export const phaseAxis: Axis = {
  min: -200,
  max: 200,
  marks: [
    [-180, '−180°'],
    [-90, '−90°'],
    [0, '0°'],
    [90, '90°'],
    [180, '180°'],
  ],
}

export const frequencyAxis: Axis = {
  min: 20,
  max: 20_000,
  log: true,
  marks: [
    [50, '50'],
    [100, '100'],
    [200, '200'],
    [500, '500'],
    [1000, '1k'],
    [2000, '2k'],
    [5000, '5k'],
    [10_000, '10k'],
  ],
}
