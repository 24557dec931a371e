import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import { findTarget } from '@oleaje/core/project/targets'
import { toNormalized } from '@oleaje/core/units/scale'
import type { Page } from '@playwright/test'
import { empty, levelMotion, liveAgainstRender, menu, open, project, wavOf } from './app'
import { alone, expect, test as own, sharing as test } from './fixtures'

async function openStudies(page: Page): Promise<void> {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: /ways of moving/ }).click()
  await expect.poll(async () => (await project(page)).name).toBe('Night Ferry: ways of moving')
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

/** Types into a gauge by its name: one action of a person. */
async function type(page: Page, gauge: string | RegExp, value: string): Promise<void> {
  await page.getByRole('slider', { name: gauge }).focus()
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: /^Value of/ }).fill(value)
  await page.keyboard.press('Enter')
}

test('drifting pad: two filters on two slow LFOs that never line up, in at most 12 actions from an empty chain', async ({
  page,
}) => {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('dialog', { name: 'New track' }).getByRole('button', { name: 'Test signals' }).click()
  let actions = 0
  const act = async (what: Promise<unknown>): Promise<void> => {
    await what
    actions++
  }
  await act(page.getByRole('button', { name: 'Add an effect after the source' }).click())
  await act(page.getByRole('option', { name: /^Filter(?!:)/ }).click())
  await act(page.keyboard.press('d'))
  await act(page.getByRole('button', { name: 'Add modulator' }).click())
  await act(page.getByRole('menuitem', { name: 'LFO', exact: true }).click())
  await act(type(page, /^Rate, LFO/, '0.07'))
  await act(page.getByRole('button', { name: 'Link LFO' }).click())
  const box = (await page.getByRole('slider', { name: 'Cutoff, Filter' }).boundingBox())!
  await page.mouse.move(box.x + box.width * 0.4, box.y + 12)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width * 0.55, box.y + 12, { steps: 3 })
  await page.mouse.move(box.x + box.width * 0.7, box.y + 12)
  await act(page.mouse.up())
  await act(page.getByRole('button', { name: 'Copy to…' }).click())
  const chart = page.getByLabel('Chart')
  await act(
    chart
      .getByRole('button', { name: /^Filter/ })
      .last()
      .click(),
  )
  await act(page.getByRole('slider', { name: 'Cutoff, Filter' }).click())
  await act(type(page, /^Rate, LFO 2/, '0.11'))
  expect(actions).toBeLessThanOrEqual(12)
  const p = await project(page)
  expect(new Set(p.links.map((l) => l.target.owner)).size).toBe(2)
  const rates = p.tracks[0]!.modulators.map((m) => m.params.rate)
  expect(rates).toEqual([0.07, 0.11])
})

test('what the worklet plays and what Node renders are identical in every bit with every kind of modulator at work', async ({
  page,
}) => {
  await openStudies(page)
  for (const name of [
    'Deck kit',
    'Ducking bass',
    'Warped record',
    'One-control riser',
    'All together',
    'Played filter',
    'Odd lengths',
  ])
    await page.getByRole('button', { name: `Mute ${name}`, exact: true }).click()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:odd')))
    .toBeGreaterThan(0.001)
  const p = await project(page)
  expect(new Set(p.tracks.flatMap((t) => t.modulators.map((m) => m.type))).size).toBe(11)
  const { different, loudest } = await liveAgainstRender(page, 3)
  expect(loudest).toBeGreaterThan(0.1)
  expect(different).toBe(0)
})

test('riser: every range of the macro is edited from its table, parts are switched out, all scaled at once, and undone in one step each', async ({
  page,
}) => {
  await openStudies(page)
  await page.getByRole('button', { name: /^One-control riser/ }).click()
  await page.getByRole('button', { name: '8 links' }).click()
  const fields = page.getByRole('textbox', { name: /^Minimum of/ })
  await expect(fields).toHaveCount(8)
  const wanted: [string, number][] = [
    ['50 Hz', 50],
    ['1.2', 1.2],
    ['4 dB', 4],
    ['7 %', 0.07],
    ['20 %', 0.2],
    ['200 ms', 0.2],
    ['10 %', 0.1],
    ['-1 dB', -1],
  ]
  for (const [i, [text]] of wanted.entries()) {
    await fields.nth(i).fill(text)
    await fields.nth(i).press('Tab')
  }
  const p = await project(page)
  const links = p.links.filter((l) => l.source === 'rise')
  links.forEach((l, i) =>
    expect(l.from).toBeCloseTo(toNormalized(findTarget(p, l.target)!.spec, wanted[i]![1]), 3),
  )
  await page.getByRole('button', { name: 'Scale', exact: true }).click()
  expect((await project(page)).links.filter((l) => l.source === 'rise').map((l) => l.amount)).toEqual(
    Array(8).fill(0.8),
  )
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  expect((await project(page)).links.filter((l) => l.source === 'rise').map((l) => l.amount)).toEqual(
    Array(8).fill(1),
  )
  await page.keyboard.press('Space')
  const driven = (): Promise<number> => page.evaluate(() => globalThis.oleaje.value('live:rise-drive.on'))
  await expect.poll(driven).toBe(1)
  await page.getByRole('switch', { name: 'Macro Dirt part' }).click()
  await expect.poll(driven).toBe(0)
})

test('a macro learns both ends from gauges that are set meanwhile', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: 'Add', exact: true }).nth(1).click()
  await expect
    .poll(async () => (await project(page)).tracks[2]!.modulators.filter((m) => m.type === 'macro').length)
    .toBe(2)
  await page.getByRole('button', { name: '0 links' }).click()
  await page.getByRole('button', { name: /^Learn range/ }).click()
  await type(page, 'Cutoff, Filter', '300')
  await page.getByRole('button', { name: 'Maximum', exact: true }).click()
  await type(page, 'Cutoff, Filter', '5k')
  await type(page, 'Resonance, Filter', '6')
  await page.getByRole('button', { name: 'Done' }).click()
  const p = await project(page)
  const macro = p.tracks[2]!.modulators.filter((m) => m.type === 'macro').at(-1)!
  const ends = Object.fromEntries(
    p.links.filter((l) => l.source === macro.id).map((l) => [l.target.param, [l.from, l.to]]),
  )
  const at = (param: string, v: number): number =>
    toNormalized(findTarget(p, { owner: 'pad-filter', param })!.spec, v)
  expect(ends.cutoff![0]).toBeCloseTo(at('cutoff', 300), 3)
  expect(ends.cutoff![1]).toBeCloseTo(at('cutoff', 5000), 3)
  expect(ends.resonance![0]).toBeCloseTo(at('resonance', 2.6), 3)
  expect(ends.resonance![1]).toBeCloseTo(at('resonance', 6), 3)
  // the bases stayed where they were
  expect(findTarget(p, { owner: 'pad-filter', param: 'cutoff' })!.base).toBe(800)
})

test('links: sorted, filtered, many edited at once with one undo, and to the gauge and back', async ({
  page,
}) => {
  await open(page)
  await page.getByRole('link', { name: /^Links/ }).click()
  const rows = page.locator('[data-row]')
  await expect(rows).toHaveCount(13)
  await page.getByRole('searchbox', { name: 'Filter links' }).fill('fog pad filter')
  await expect(rows).toHaveCount(3)
  await page.getByRole('button', { name: 'Select all shown' }).click()
  const cell = async (name: string, text: string): Promise<void> => {
    await page.getByRole('button', { name }).click()
    await page.getByRole('textbox', { name }).fill(text)
    await page.keyboard.press('Enter')
  }
  await cell('Slew of Slow tide on Filter Cutoff', '120')
  expect((await project(page)).links.filter((l) => l.slewUp === 0.12)).toHaveLength(3)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await project(page)).links.filter((l) => l.slewUp === 0.12).length).toBe(0)
  const factor = page.getByRole('textbox', { name: 'Factor for amounts' })
  const scaled = async (by: string): Promise<number[]> => {
    await factor.fill(by)
    await factor.press('Enter')
    await page.getByRole('button', { name: 'Scale', exact: true }).click()
    return (await project(page)).links.map((l) => l.amount)
  }
  expect((await scaled('0.5')).filter((amount) => amount === 0.5)).toHaveLength(3)
  // over the end of the range and back again is as before
  await scaled('4')
  expect((await scaled('0.25')).filter((amount) => amount === 0.5)).toHaveLength(3)
  // what is emptied scales nothing
  await factor.fill('')
  await page.getByRole('button', { name: 'Scale', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('Enter a value')
  expect((await project(page)).links.filter((l) => l.amount === 0.5)).toHaveLength(3)
  await factor.press('Escape')
  await cell('Minimum of Slow tide on Filter Cutoff', 'nonsense')
  await expect(page.getByRole('alert')).toContainText('is not a value for Cutoff')
  await expect(page.getByRole('textbox', { name: 'Minimum of Slow tide on Filter Cutoff' })).toHaveValue(
    'nonsense',
  )
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: /^Modulator/ }).click()
  await expect(page.getByRole('columnheader', { name: /Modulator/ })).toHaveAttribute(
    'aria-sort',
    'ascending',
  )
  await page.getByRole('button', { name: 'To the gauge of Filter Cutoff' }).first().click()
  await expect(page.getByRole('slider', { name: 'Cutoff, Filter' })).toBeFocused()
  await page.getByRole('button', { name: 'Link from Slow tide' }).first().click()
  await page.getByRole('button', { name: 'In table' }).click()
  await expect(page.getByRole('checkbox', { name: 'Select Slow tide to Filter Cutoff' })).toBeChecked()
})

own(
  'a ride of a macro is recorded into a curve that repeats it, and a control of a device rides it as well, without a jump',
  alone,
  async ({ page }) => {
    await open(page)
    await page.keyboard.press('Space')
    const macro = page.getByRole('slider', { name: 'Macro Haze' })
    await macro.focus()
    await page.keyboard.press('w')
    await expect(page.getByText(/Recording a ride of value of Haze/)).toBeVisible()
    const beat = (b: number): Promise<unknown> =>
      page.waitForFunction((at) => globalThis.oleaje.live().beat >= at, b, { polling: 20 })
    await beat(1)
    await page.keyboard.press('Home')
    await expect
      .poll(() => page.evaluate(() => globalThis.oleaje.value('live:haze.value')))
      .toBeLessThan(0.01)
    // a page on a busy machine comes late: what counts is where in the song it was down, not where it should
    // have been
    const down = await page.evaluate(() => globalThis.oleaje.live().beat)
    await beat(down + 2)
    for (let i = 0; i < 8; i++) {
      await page.keyboard.press('PageUp')
      await beat(down + 2 + i / 4)
    }
    await page.keyboard.press('w')
    await expect
      .poll(async () => (await project(page)).tracks[2]!.modulators.some((m) => m.type === 'curve'))
      .toBe(true)
    const p = await project(page)
    const curve = p.tracks[2]!.modulators.find((m) => m.type === 'curve')!
    expect(curve.params.length).toBe(16)
    const points = curve.data!.points as { x: number; y: number }[]
    // kept as it was played: where it was left it stays to the end
    expect(points.at(-1)!.y).toBeGreaterThan(0.7)
    expect(Math.max(...points.map((q) => q.y))).toBeGreaterThan(0.7)
    expect(points.length).toBeLessThan(80)
    // the macro now goes by itself what was ridden
    await beat(down + 5)
    const low = await page.waitForFunction(
      (from) => {
        const { beat: at } = globalThis.oleaje.live()
        return at > from + 0.2 && at < from + 1.8
          ? { value: globalThis.oleaje.value('live:haze.value') }
          : null
      },
      down,
      { polling: 20, timeout: 30_000 },
    )
    expect((await low.jsonValue())?.value).toBeLessThan(0.1)
    await page.keyboard.press('Control+z')
    await expect
      .poll(async () => (await project(page)).tracks[2]!.modulators.some((m) => m.type === 'curve'))
      .toBe(false)

    // the simulated controller: learnt by moving it, picked up only where it passes the value
    await page.keyboard.press('u')
    await macro.focus()
    await page.keyboard.press('End')
    await page.keyboard.press('i')
    const fader = page.getByRole('slider', { name: 'Fader 1', exact: true })
    await fader.fill('0.1023622041')
    await expect(page.getByText(/control 20 → Haze, value/)).toBeVisible()
    const value = async (): Promise<number> =>
      (await project(page)).tracks[2]!.modulators.find((m) => m.id === 'haze')!.params.value!
    await fader.fill('0.5039370080')
    expect(await value()).toBe(1)
    await fader.fill('1')
    await fader.fill('0.7007874016')
    await expect.poll(value).toBeCloseTo(0.7008, 2)
  },
)

test('keys played on the simulated keyboard move what their notes are linked to', async ({ page }) => {
  await openStudies(page)
  await page.getByRole('button', { name: /^Played filter/ }).click()
  await page.keyboard.press('u')
  await page.keyboard.press('Space')
  await page.keyboard.press('Space')
  const key = page.getByRole('button', { name: 'Note 57', exact: true })
  await key.focus()
  await page.keyboard.down('Enter')
  const gate = (): Promise<number> => page.evaluate(() => globalThis.oleaje.value('mod:tune.gate'))
  await expect.poll(gate).toBe(1)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.value('mod:tune') * 128)).toBeCloseTo(57, 1)
  await page.keyboard.up('Enter')
  await expect.poll(gate).toBe(0)
})

test('timeline: a curve is added, drawn by mouse and by key, given an odd length, and heard in the render', async ({
  page,
}) => {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('dialog', { name: 'New track' }).getByRole('button', { name: 'Test signals' }).click()
  await page.getByRole('button', { name: 'Add an effect after the source' }).click()
  await page.getByRole('option', { name: /^Gain(?!:)/ }).click()
  await page.getByRole('link', { name: 'Timeline' }).click()
  await page.getByRole('button', { name: 'Chooses the target of a new curve or ride' }).click()
  await page.getByRole('option', { name: 'Gain, level' }).click()
  await menu(page, 'Add to the Timeline', 'Curve')
  await page.getByLabel('Length of Curve').fill('2 beats')
  await page.keyboard.press('Tab')
  await page.getByRole('button', { name: 'Shape to insert' }).click()
  await page.getByRole('option', { name: 'triangle' }).click()
  await page.getByLabel('Number of cycles').fill('2')
  await page.getByRole('button', { name: 'Insert', exact: true }).click()
  const canvas = page.getByRole('application', { name: /^Curve Curve/ })
  const before = (await project(page)).tracks[0]!.modulators[0]!.data!.points as unknown[]
  await canvas.focus()
  await page.keyboard.press('End')
  await page.keyboard.press('ArrowUp')
  await expect
    .poll(async () => JSON.stringify((await project(page)).tracks[0]!.modulators[0]!.data!.points))
    .not.toBe(JSON.stringify(before))
  await page.keyboard.press('ArrowDown')
  await menu(page, 'Add to the Timeline', 'Section')
  expect((await project(page)).sections).toHaveLength(1)
  await page.keyboard.press('r')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Render to WAV' }).click(),
  ])
  const wav = await wavOf(download)
  // two triangles in two beats at 120 bpm: twice a second
  expect(levelMotion(wav.channels[0]!.slice(4800, 4800 + 48_000 * 6), wav.sampleRate).rate).toBeCloseTo(2, 1)
})

test('a gate is held while its button is pressed, and goes back to what it was; nothing later lets go of it', async ({
  page,
}) => {
  const p = empty('Gate')
  const t = newTrack('Skerry', newSource('tone'), 'skerry')
  t.a.nodes = [newEffect('stutter', { hold: 0.37 }, 'st')]
  p.tracks.unshift(t)
  await open(page, p)
  const hold = async (): Promise<number | undefined> =>
    (await project(page)).tracks[0]?.a.nodes[0]?.params.hold
  const button = page.getByRole('button', { name: 'Press Hold, Stutter' })
  await button.focus()
  await page.keyboard.down('Space')
  await expect.poll(hold).toBe(1)
  await page.keyboard.up('Space')
  await expect.poll(hold).toBe(0.37)
  await button.hover()
  await page.mouse.down()
  await expect.poll(hold).toBe(1)
  await page.mouse.up()
  await expect.poll(hold).toBe(0.37)
  await page.getByTitle('Type a value for Hold', { exact: true }).click()
  await page.keyboard.type('83')
  await page.keyboard.press('Enter')
  await page.evaluate(() => window.dispatchEvent(new Event('blur')))
  await page.getByRole('button', { name: 'Skerry in' }).click()
  expect(await hold()).toBeCloseTo(0.83, 9)
  await page.keyboard.press('Control+z')
  await expect.poll(hold).toBe(0.37)
})
