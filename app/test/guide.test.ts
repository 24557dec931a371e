import { describe, expect, it } from 'vitest'
import { openGuide } from '../services/guide'

const guide = openGuide()
const page = (path: string) => guide.pages.find((p) => p.path === path)!

describe('the guide in the app', () => {
  it('has the fourteen walk-throughs in the order of their list, then glossary and reference', () => {
    expect(guide.pages[0]?.path).toBe('guide/README.md')
    expect(guide.pages.slice(1, 17).map((p) => p.path)).toEqual([
      'guide/moving-reverb.md',
      'guide/gated-repeater.md',
      'guide/chorus-from-parts.md',
      'guide/cloud-of-taps.md',
      'guide/arpeggio-on-a-band.md',
      'guide/glide-into-ping-pong.md',
      'guide/new-snare.md',
      'guide/live-input.md',
      'guide/one-control-riser.md',
      'guide/pitch-spiral.md',
      'guide/shipped-chain.md',
      'guide/morph-on-a-plane.md',
      'guide/dice-and-try-outs.md',
      'guide/chain-under-measurement.md',
      'guide/what-matters.md',
      'guide/towards-a-sound.md',
    ])
    expect(guide.pages.slice(17).map((p) => p.path)).toEqual(
      expect.arrayContaining(['glossary.md', 'reference/effects.md', 'reference/keys.md']),
    )
  })
  it('finds pages by words, their beginnings and small mistakes', () => {
    expect(guide.search('own branch snare')[0]?.path).toBe('guide/new-snare.md')
    expect(guide.search('arpeg')[0]?.path).toBe('guide/arpeggio-on-a-band.md')
    expect(guide.search('stuter').map((p) => p.path)).toContain('guide/gated-repeater.md')
    expect(guide.search('zeppelin')).toEqual([])
    expect(guide.search(' ')).toHaveLength(guide.pages.length)
  })
  it('shows each walk-through with its picture, and links between its pages', () => {
    for (const p of guide.pages.slice(1, 17)) expect(guide.render(p)).toMatch(/<img src="[^"]*png/)
    const index = guide.pages[0]!
    expect(guide.linked(index, 'new-snare.md')).toBe('guide/new-snare.md')
    expect(guide.linked(index, '../glossary.md')).toBe('glossary.md')
    expect(guide.linked(index, 'https://example.org/x')).toBe(null)
  })
  it('shows HTML in a page as text', () => {
    const strange = { ...page('glossary.md'), text: '# A\n\n<script>alert(1)</script>' }
    expect(guide.render(strange)).toContain('&lt;script&gt;')
  })
})
