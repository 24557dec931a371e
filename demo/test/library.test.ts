import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { effects } from '@oleaje/core/effects/index'
import { type Preset, checkPreset, listensTo } from '@oleaje/core/project/preset'
import { nodesIn } from '@oleaje/core/project/walk'
import { describe, expect, it } from 'vitest'
import { audioOfPhrase } from '../src/library/assets'
import { figuresOf } from '../src/library/balance'
import { libraryChains } from '../src/library/index'
import type { ShippedChain } from '../src/library/shipped-chain'

const root = join(import.meta.dirname, '../..')
const shipped = JSON.parse(readFileSync(join(root, 'demo/assets/library.json'), 'utf8')) as ShippedChain[]
const page = readFileSync(join(root, 'docs/library.md'), 'utf8')
const sounds = audioOfPhrase((file) => readFileSync(join(root, 'demo/assets', `${file}.wav`)))
const macrosOf = (p: Preset): string[] => p.modulators.filter((m) => m.type === 'macro').map((m) => m.name)
const typesIn = (p: Preset): string[] =>
  [...nodesIn(p.chain.nodes)].flatMap((n) => (n.kind === 'effect' ? [n.type] : []))

describe('the library that ships', () => {
  it('holds at least 80 chains, those of the source, each under a name of its own', () => {
    expect(shipped.length).toBeGreaterThanOrEqual(80)
    expect(shipped.map((c) => c.preset.name)).toEqual(libraryChains.map((c) => c.preset.name))
    expect(new Set(shipped.map((c) => c.preset.name)).size).toBe(shipped.length)
  })

  it('uses every effect in at least two chains', () => {
    const uses = effects.map((e) => [e.id, shipped.filter((c) => typesIn(c.preset).includes(e.id)).length])
    expect(uses.filter(([, n]) => Number(n) < 2)).toEqual([])
  })

  it.each(shipped.map((c) => [c.preset.name, c] as const))(
    '%s: readable, described, steered, as loud as dry, nothing over, and it does what it is for',
    (name, chain) => {
      const preset = checkPreset(chain.preset)
      const { about, tags, materials } = preset
      expect(about.length).toBeGreaterThan(10)
      expect(tags.length).toBeGreaterThan(0)
      expect(materials.length).toBeGreaterThan(0)
      expect(macrosOf(preset).length).toBeGreaterThan(0)
      expect(macrosOf(preset).length).toBeLessThanOrEqual(8)
      expect(listensTo(preset).every((track) => track === 'own-track')).toBe(true)
      const found = figuresOf({ ...chain, for: [], tags: [], on: chain.phrase }, preset, sounds)
      if (!chain.loudness) expect(Math.abs(found.louder), 'loudness against dry').toBeLessThan(2)
      expect(found.truePeak, 'true peak').toBeLessThan(-1)
      expect(found.truePeak, 'not silent').toBeGreaterThan(-40)
      const { least } = chain.point
      if (least < 0) expect(found.change, found.point).toBeLessThanOrEqual(least)
      else expect(found.change, found.point).toBeGreaterThanOrEqual(least)
      // the page says what is measured
      expect(found.point).toBe(chain.measured.point)
      expect(page).toContain(`| ${name} `)
      expect(page).toContain(chain.measured.point)
    },
  )
})
