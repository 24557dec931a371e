import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

const css = readFileSync(join(import.meta.dirname, '../assets/main.css'), 'utf8')

/** The colours of a palette, by name. */
function palette(selector: string): Map<string, string> {
  const block = css.slice(css.indexOf(`${selector} {`))
  return new Map(
    [...block.slice(0, block.indexOf('}')).matchAll(/--([a-z0-9-]+): (#[0-9a-f]{6});/g)].map((m) => [
      m[1]!,
      m[2]!,
    ]),
  )
}
/** Relative luminance and contrast as in WCAG 2.2. */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const v = Number.parseInt(hex.slice(at, at + 2), 16) / 255
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
const contrast = (a: string, b: string): number => {
  const [high = 0, low = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (high + 0.05) / (low + 0.05)
}

const hues = Array.from({ length: 8 }, (_, k) => `hue-${k}`)
/** Text colours and their backgrounds. */
const written: readonly (readonly [readonly string[], readonly string[]])[] = [
  [
    ['ink', 'second', 'magenta', ...hues],
    ['paper', 'sheet'],
  ],
  [['ink', 'second'], ['shoal']],
  [['ink'], ['land', 'water']],
  [['paper', 'sheet'], ['ink']],
  [['on-hue'], hues],
]

describe.each([
  ['by day', ':root'],
  ['by night', ':root.night'],
])('the colours %s', (_, selector) => {
  const colours = palette(selector)
  it('are all there', () => {
    expect(colours.size).toBe(palette(':root').size)
    expect(colours.size).toBeGreaterThan(18)
  })
  it.each(
    written.flatMap(([inks, grounds]) =>
      inks.flatMap((ink) => grounds.map((ground) => [ink, ground] as const)),
    ),
  )('%s can be read on %s', (ink, ground) => {
    expect(contrast(colours.get(ink)!, colours.get(ground)!)).toBeGreaterThanOrEqual(4.5)
  })
})
