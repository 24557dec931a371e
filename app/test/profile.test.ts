import { describe, expect, it, vi } from 'vitest'
import { drawCurve, drawSheet, frequencyAt, frequencyAxis } from '../components/pictures/profile'
import type { Pen } from '../composables/useCanvas'

/** A pen that writes down what it is told. */
function pen(width = 400, height = 200) {
  const texts: [string, number, number][] = []
  const points: [number, number][] = []
  const g = {
    strokeStyle: '',
    fillStyle: '',
    lineWidth: 0,
    font: '',
    textBaseline: '',
    textAlign: '',
    globalAlpha: 1,
    fillText: (text: string, x: number, y: number) => {
      texts.push([text, x, y])
    },
    moveTo: (x: number, y: number) => {
      points.push([x, y])
    },
    lineTo: (x: number, y: number) => {
      points.push([x, y])
    },
    beginPath: () => {
      points.length = 0
    },
    closePath: vi.fn(),
    stroke: vi.fn(),
    fill: vi.fn(),
    save: vi.fn(),
    restore: vi.fn(),
    rect: vi.fn(),
    clip: vi.fn(),
    setLineDash: vi.fn(),
  }
  return { pen: { g, width, height, color: (name: string) => name } as unknown as Pen, g, texts, points }
}
const levels = {
  min: -60,
  max: 12,
  marks: [
    [-48, '−48'],
    [0, '0'],
  ] as const,
}

describe('the sheet of a depth profile', () => {
  it('goes from its corner up and to the right, with frequencies by octaves', () => {
    const { pen: p, texts } = pen()
    const s = drawSheet(p, frequencyAxis, levels)
    expect([s.x(20), s.x(20_000)]).toEqual([s.left, s.right])
    expect([s.y(-60), s.y(12)]).toEqual([s.bottom, s.top])
    expect(s.x(200) - s.x(20)).toBeCloseTo(s.x(2000) - s.x(200), 9)
    expect(texts.map(([text]) => text)).toEqual([
      '50',
      '100',
      '200',
      '500',
      '1k',
      '2k',
      '5k',
      '10k',
      '−48',
      '0',
    ])
    for (const [, x, y] of texts) {
      expect(x).toBeGreaterThan(0)
      expect(x).toBeLessThanOrEqual(400)
      expect(y).toBeGreaterThan(0)
      expect(y).toBeLessThan(200)
    }
  })
  it('knows the frequency of each of its pixels', () => {
    const s = drawSheet(pen().pen, frequencyAxis, levels)
    for (const hz of [20, 63, 440, 15_000]) expect(frequencyAt(s, s.x(hz), 20, 20_000)).toBeCloseTo(hz, 6)
  })
})

describe('a curve on it', () => {
  it('goes over the whole width, dashed or filled where that is asked', () => {
    const { pen: p, g, points } = pen()
    const s = drawSheet(p, frequencyAxis, levels)
    drawCurve(p, s, (x) => s.y(-20) + 0 * x, { color: 'ink', width: 3, dash: [4, 2] })
    expect(points[0]).toEqual([s.left, s.y(-20)])
    expect(points.at(-1)![0]).toBeGreaterThan(s.right - 3)
    expect(points.every(([, y]) => y === s.y(-20))).toBe(true)
    expect([g.strokeStyle, g.lineWidth]).toEqual(['ink', 3])
    expect(g.setLineDash).toHaveBeenCalledWith([4, 2])
    expect(g.fill).not.toHaveBeenCalled()
    drawCurve(p, s, () => s.y(0), { color: 'ink', fill: 'deep' })
    expect(g.fill).toHaveBeenCalledTimes(1)
    expect(g.setLineDash).toHaveBeenLastCalledWith([])
    // down to the ground at both ends
    expect(points.slice(-2)).toEqual([
      [s.right + 2, s.bottom],
      [s.left, s.bottom],
    ])
  })
})
