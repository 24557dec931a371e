import type { Track } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { readFileSync } from 'node:fs'
import { project } from './app'
import { begin, kinds, links, response, track } from './hand'
import { expect, sharing as test } from './fixtures'

test('a pad whose bell and notch drift apart, kept and used on another track: at most 24 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Fog pad', 'Rope guitar')
  await hand.add('eq')
  await hand.button('band 3')
  await hand.choose('Kind, EQ: bell', 'notch')
  await hand.press('Frequency, EQ', 0.6)
  await hand.key('m')
  await hand.click(page.getByRole('menuitem', { name: 'new LFO' }))
  await hand.value('Rate', '0.07')
  await hand.button('band 2')
  await hand.button('Copy to…')
  await hand.press('Frequency, EQ', 0.4)
  await hand.value('Rate', '0.11')
  await hand.node(/^EQ, on/)
  await hand.key('Shift+F')
  await hand.type('Drifting pad')
  await hand.click(page.getByRole('button', { name: 'Rope guitar', exact: true }))
  await hand.key('f')
  await page.getByRole('combobox', { name: 'Search the shelf' }).waitFor()
  await hand.type('dri')
  const p = await project(page)
  expect(p.links).toHaveLength(4)
  expect(p.tracks[1]?.modulators.map((m) => m.params.rate).sort()).toEqual(
    p.tracks[0]?.modulators.map((m) => m.params.rate).sort(),
  )
  expect(kinds(p.tracks[1] as Track)).toEqual(['eq'])
  hand.takesAtMost(24)
})

test('first principles: all-pass sums become low-pass, high-pass and shelf, seen with phase: at most 24 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Test signals')
  await hand.add('all-pass')
  await hand.click(page.getByRole('radio', { name: 'first' }))
  await hand.menu('Split around')
  await hand.node(/^Split into/)
  await hand.button('chain up to here')
  const [low = 0, high = 0] = await response(page, 60, 15_000)
  expect(low - high).toBeGreaterThan(20)
  await hand.click(page.getByRole('button', { name: 'Invert the polarity of straight' }))
  const [low2 = 0, high2 = 0] = await response(page, 60, 15_000)
  expect(high2 - low2).toBeGreaterThan(20)
  await hand.button('Phase')
  await expect(page.getByLabel('Response of the chain up to here, measured live')).toBeVisible()
  await hand.press('Polarity, straight', 0.75)
  const [low3 = 0, high3 = 0, higher3 = 0] = await response(page, 60, 12_000, 15_000)
  expect(low3 - high3).toBeGreaterThan(3)
  expect(Math.abs(high3 - higher3)).toBeLessThan(1)
  hand.takesAtMost(24)
})

test('a sine folded, its clipping seen, and three other waves: at most 26 actions', async ({ page }) => {
  const hand = await begin(page, 'Test signals')
  await hand.add('folder')
  await hand.click(page.getByRole('tab', { name: 'Scope' }).last())
  await hand.button('Play')
  await hand.drag('Gain, Folder', 0.3, 0.8)
  await hand.press('Makeup, Folder', 0.95)
  await expect(page.getByRole('button', { name: 'Clipped', exact: true })).toBeVisible()
  await hand.press('Makeup, Folder', 0.3)
  // what is on its way to the output still clips: the mark stays away once that is over
  const mark = page.getByRole('button', { name: 'Clipped', exact: true })
  await expect(async () => {
    if (await mark.count()) await mark.click({ timeout: 2000 })
    await expect(mark).toHaveCount(0, { timeout: 1000 })
  }).toPass()
  hand.actions++
  await hand.click(page.getByRole('button', { name: 'Test signals in' }))
  for (const [from, to] of [
    ['sine', 'triangle'],
    ['triangle', 'saw'],
    ['saw', 'pulse'],
  ] as const) {
    await hand.choose(new RegExp(`^Wave, .*: ${from}`), to)
    await expect
      .poll(async () => (await track(page)).source?.params.wave)
      .toBe(['sine', 'triangle', 'saw', 'pulse'].indexOf(to))
  }
  hand.takesAtMost(26)
})

test('five vowels on one control from a table of one’s own, copied to another drum track: at most 34 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Deck kit', 'Deck kit, open hat')
  await hand.add('vowel')
  await hand.button('Own vowels')
  for (const sign of ['ɑ', 'ɛ', 'i', 'ɔ', 'u']) await hand.button(`Add the vowel ${sign}`)
  await hand.click(page.getByRole('button', { name: 'i', exact: true }))
  await hand.click(page.getByRole('textbox', { name: 'frequency of peak 2' }))
  await page.keyboard.press('Control+a')
  await hand.type('2500')
  await hand.addMacro()
  await hand.click(page.getByRole('button', { name: /^Link Macro.*/ }))
  await hand.drag('Position, Vowel', 0.02, 0.98)
  await hand.node(/^Vowel, on/)
  await hand.key('Control+c')
  await hand.click(page.getByRole('button', { name: 'Deck kit, open hat', exact: true }))
  await hand.key('Control+v')
  const p = await project(page)
  const vowels = (t: Track | undefined) =>
    (heardChain(t as Track).nodes[0] as { data?: { vowels: { peaks: { frequency: number }[] }[] } }).data
      ?.vowels
  expect(vowels(p.tracks[0])).toHaveLength(5)
  expect(vowels(p.tracks[0])?.[2]?.peaks[1]?.frequency).toBe(2500)
  expect(vowels(p.tracks[1])).toEqual(vowels(p.tracks[0]))
  expect(p.links).toHaveLength(2)
  hand.takesAtMost(34)
})

test('bass opened and ducked by the kit, several gauges at once: at most 30 actions', async ({ page }) => {
  const hand = await begin(page, 'Deck kit', 'Hull bass')
  await hand.click(page.getByRole('button', { name: 'Hull bass', exact: true }))
  await hand.add('gain')
  await hand.add('filter')
  await hand.addModulator('Follower')
  await hand.press('Resonance, Filter', 0.3, ['Shift'])
  await hand.press('Drive, Filter', 0.2, ['Shift'])
  await hand.click(page.getByRole('button', { name: 'Link Follower' }))
  await hand.drag('Cutoff, Filter', 0.3, 0.8)
  await hand.node(/^Gain, on/)
  await hand.drag('Level, Gain', 0.8, 0.5)
  await hand.button('Play')
  const all = await links(page)
  expect(all.map((l) => l.target.param).sort()).toEqual(['cutoff', 'drive', 'level', 'resonance'])
  expect((await track(page, 1)).modulators[0]?.listens?.track).toBe('t0')
  // it opens when the kit sounds
  const live = (key: string): Promise<number> =>
    page.evaluate((k) => globalThis.oleaje.value(`live:${k}`), key)
  const cutoff = `${all.find((l) => l.target.param === 'cutoff')?.target.owner}.cutoff`
  const seen = new Set<number>()
  await expect.poll(async () => seen.add(Math.round((await live(cutoff)) * 100)).size).toBeGreaterThan(6)
  hand.takesAtMost(30)
})

test('eight bands on one modulator, all scaled, mirrored by a second: at most 28 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Fog pad')
  await hand.add('eq')
  for (let n = 0; n < 4; n++)
    await hand.click(
      page.getByRole('region', { name: 'Bands' }).getByRole('button', { name: 'Add', exact: true }),
    )
  await hand.button('All')
  await hand.addModulator('LFO')
  await hand.click(page.getByRole('button', { name: 'Link LFO' }))
  await hand.drag(/^Gain, EQ$/, 0.3, 0.7)
  await hand.click(page.getByRole('button', { name: '1 link', exact: true }).last())
  await hand.click(page.getByRole('textbox', { name: 'Factor for amounts' }))
  await page.keyboard.press('Control+a')
  await hand.type('0.5')
  await hand.button('Scale')
  await hand.key('Escape')
  await hand.addMacro()
  await hand.click(page.getByRole('button', { name: /^Link Macro.*/ }))
  await hand.drag('Amount, EQ', 0.25, 0.75)
  const p = await project(page)
  expect(
    (heardChain(p.tracks[0] as Track).nodes[0] as { lanes?: { bands: unknown[] } }).lanes?.bands,
  ).toHaveLength(8)
  expect(p.links.map((l) => [l.target.param, l.amount])).toEqual([
    ['gain', 0.5],
    ['amount', 1],
  ])
  expect(p.links[0]?.target.lane).toBe('bands')
  hand.takesAtMost(28)
})

test('a warped record, and a curve of three and a half bars: at most 36 actions', async ({ page }) => {
  const hand = await begin(page, 'Galley keys')
  await hand.add('wow')
  await hand.drag('Wow, Wow', 0.2, 0.45)
  await hand.value('Jumps per minute', '9')
  await hand.press('Rate, Wow', 0.4)
  await hand.key('m')
  await hand.click(page.getByRole('menuitem', { name: 'new Drift' }))
  await hand.add('delay')
  await hand.addModulator('Curve')
  await hand.value('Length', '3.5 bars')
  await hand.button('draw')
  await hand.dragOn(page.getByRole('application', { name: /^Curve Curve/ }), [0.05, 0.9], [0.95, 0.1])
  await hand.click(page.getByRole('button', { name: 'Link Curve' }))
  await hand.drag('Feedback, Delay', 0.1, 0.6)
  const p = await project(page)
  const curve = p.tracks[0]?.modulators.find((m) => m.type === 'curve')
  expect(curve?.params.length).toBe(14)
  expect((curve?.data?.points as unknown[]).length).toBeGreaterThan(1)
  expect(p.links.map((l) => l.target.param)).toEqual(['rate', 'feedback'])
  hand.takesAtMost(36)
})

test('the simulated line into overload and a filter that answers: at most 22 actions', async ({ page }) => {
  const hand = await begin(page)
  await hand.button('Live input')
  await hand.button('Turn input on')
  await hand.add('drive')
  await hand.click(page.getByRole('radio', { name: '+20 dB' }))
  await hand.add('filter')
  await hand.press('Resonance, Filter', 0.7)
  await hand.press('Cutoff, Filter', 0.35)
  await hand.key('m')
  await hand.click(page.getByRole('menuitem', { name: 'new Follower' }))
  await expect
    .poll(() =>
      page.evaluate(() =>
        globalThis.oleaje.value(`peak:source:${globalThis.oleaje.project()?.tracks[0]?.id ?? ''}`),
      ),
    )
    .toBeGreaterThan(0.005)
  const [link] = await links(page)
  expect(link?.target.param).toBe('cutoff')
  // a follower's first range goes one way from the base, and it listens to its own track where there is no
  // other
  expect((await track(page)).modulators[0]?.listens?.track).toBe((await track(page)).id)
  const seen = new Set<number>()
  await expect
    .poll(
      async () =>
        seen.add(
          Math.round(
            100 *
              (await page.evaluate((k) => globalThis.oleaje.value(k), `live:${link?.target.owner}.cutoff`)),
          ),
        ).size,
    )
    .toBeGreaterThan(4)
  hand.takesAtMost(22)
})

test('a growl: three compressed bands, four poses on a macro, order changed, snapshots: at most 42 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Hull bass')
  await hand.add('split')
  await hand.choose('Type', 'bands')
  await hand.button('Add branch')
  for (const name of ['low', 'mid', 'high']) {
    await hand.button(`Add an effect after the start of ${name}`)
    await page.getByRole('combobox', { name: 'Search' }).waitFor()
    await hand.type('compressor')
  }
  await hand.node(/^Split into/)
  await hand.add('eq')
  await hand.button('band 2')
  for (const part of [0.9, 0.2, 0.7, 0.35]) {
    await hand.button('Store')
    await hand.press('Gain, EQ', part)
  }
  await hand.addMacro()
  await hand.click(page.getByRole('button', { name: /^Link Macro.*/ }))
  await hand.drag('Travel, EQ', 0.02, 0.98)
  await hand.node(/^EQ, on/)
  await hand.key('Control+Shift+ArrowLeft')
  expect(kinds(await track(page))).toEqual(['eq', 'split'])
  await hand.key('Shift+1')
  const before = (await track(page)).modulators[0]?.params.value
  await hand.dragOn(page.getByRole('slider', { name: /^Macro Macro/ }), [0.5, 0.5], [0.5, 0.1])
  await hand.key('Shift+2')
  await hand.key('1')
  await expect.poll(async () => (await track(page)).modulators[0]?.params.value).toBe(before)
  const t = await track(page)
  expect(t.snapshots.map((s) => s.id)).toEqual(['1', '2'])
  const eq = heardChain(t).nodes[0] as { data?: { poses: { at: number; bands: { gain: number }[] }[] } }
  expect(eq.data?.poses.map((pose) => Math.round(pose.at * 100))).toEqual([0, 33, 67, 100])
  expect(new Set(eq.data?.poses.map((pose) => pose.bands[1]?.gain)).size).toBe(4)
  hand.takesAtMost(42)
})

test('a riser of six targets, its ranges edited, its ride recorded and edited: at most 64 actions', async ({
  page,
}) => {
  test.slow()
  const hand = await begin(page, 'Deck kit')
  const parts = [
    ['frequency shift', 'Shift, Frequency shift', 0.5, 0.7],
    ['filter', 'Cutoff, Filter', 0.2, 0.9],
    ['eq', 'Gain, EQ', 0.5, 0.6],
    ['noise layer', 'Level, Noise layer', 0.1, 0.7],
    ['delay', 'Feedback, Delay', 0.1, 0.7],
    ['reverb', 'Wet, Reverb', 0, 0.6],
  ] as const
  await hand.addMacro()
  await hand.click(page.getByRole('button', { name: /^Link Macro.*/ }))
  for (const [effect, gauge, from, to] of parts) {
    await hand.add(effect)
    await hand.drag(gauge, from, to)
  }
  await expect.poll(async () => (await links(page)).length).toBe(6)
  await hand.key('Escape')
  await hand.button('6 links')
  for (const [which, text] of [
    ['Minimum of Filter Cutoff', '210'],
    ['Maximum of Filter Cutoff', '9k'],
    ['Maximum of Delay Feedback', '70'],
  ] as const) {
    await hand.click(page.getByRole('textbox', { name: which }))
    await page.keyboard.press('Control+a')
    await hand.type(text)
  }
  await hand.key('Escape')
  const macro = page.getByRole('slider', { name: /^Macro Macro/ })
  await macro.focus()
  await hand.key('w')
  await hand.key('Space')
  await page.waitForFunction(() => globalThis.oleaje.live().beat > 1, undefined, { polling: 20 })
  await hand.dragOn(macro, [0.5, 0.95], [0.5, 0.05])
  await page.waitForFunction(() => globalThis.oleaje.live().beat > 3, undefined, { polling: 20 })
  await macro.focus()
  await hand.key('w')
  await expect.poll(async () => (await track(page)).modulators.some((m) => m.type === 'curve')).toBe(true)
  await hand.key('t')
  const curve = page.getByRole('application', { name: /^Curve Ride/ })
  const before = JSON.stringify((await track(page)).modulators.find((m) => m.type === 'curve')?.data)
  await hand.dragOn(curve, [0.5, 0.1], [0.5, 0.6])
  await expect
    .poll(async () => JSON.stringify((await track(page)).modulators.find((m) => m.type === 'curve')?.data))
    .not.toBe(before)
  hand.takesAtMost(64)
})

test('a melody drawn, taken out and in again as MIDI, tunes a comb: at most 29 actions', async ({ page }) => {
  const hand = await begin(page, 'Test signals')
  await hand.add('comb')
  await hand.addModulator('Notes')
  await hand.button(/^Link Notes/)
  await hand.drag('Frequency, Comb', 0.02, 0.98)
  await hand.key('Escape')
  await hand.key('t')
  await hand.button('Notes of Test signals')
  const roll = page.locator('[data-region=notes]')
  for (const [from, to, row] of [
    [0.01, 0.03, 0.3],
    [0.04, 0.06, 0.4],
    [0.07, 0.12, 0.2],
  ] as const)
    await hand.dragOn(roll, [from, row], [to, row])
  const drawn = (await track(page)).line?.notes.map((n) => n.pitch)
  expect(drawn).toHaveLength(3)
  const saved = page.waitForEvent('download')
  await hand.button('MIDI files')
  await hand.click(page.getByRole('menuitem', { name: /^Export MIDI(?! of)/ }))
  const file = await (await saved).path()
  await hand.key('Control+a')
  await hand.click(roll, { position: { x: 400, y: 30 } })
  await hand.key('Control+a')
  await hand.key('Delete')
  await expect.poll(async () => (await track(page)).line?.notes.length ?? 0).toBe(0)
  const chooser = page.waitForEvent('filechooser')
  await hand.button('MIDI files')
  await hand.click(page.getByRole('menuitem', { name: /^Import MIDI/ }))
  await (await chooser).setFiles([{ name: 'Tune.mid', mimeType: 'audio/midi', buffer: readFileSync(file) }])
  await hand.click(page.getByRole('button', { name: 'Import notes' }))
  await expect.poll(async () => (await track(page)).line?.notes.map((n) => n.pitch)).toEqual(drawn)
  expect((await links(page)).map((l) => [l.target.param, l.mode])).toEqual([['frequency', 'pitch']])
  await hand.key('Space')
  const id = (await track(page)).id
  await expect
    .poll(() => page.evaluate((k) => globalThis.oleaje.value(k), `peak:track:${id}`))
    .toBeGreaterThan(0.001)
  hand.takesAtMost(29)
})
