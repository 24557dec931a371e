import type { Page } from '@playwright/test'
import { levelMotion, menu, open, project, wavOf } from './app'
import { expect, sharing as test } from './fixtures'

/** What the screen says of the link on a gauge: its ends in dB, and the rate of its LFO in Hz. */
async function onScreen(page: Page): Promise<{ low: number; high: number; rate: number }> {
  const text = async (name: RegExp): Promise<number> =>
    Number(
      ((await page.getByRole('slider', { name }).getAttribute('aria-valuetext')) ?? '')
        .replace('−', '-')
        .replace(/[^\d.-]/g, ''),
    )
  const ends = [await text(/^Minimum of LFO/), await text(/^Maximum of LFO/)]
  return { low: Math.min(...ends), high: Math.max(...ends), rate: await text(/^Rate, LFO/) }
}

async function rendered(page: Page, press: () => Promise<void>): Promise<ReturnType<typeof levelMotion>> {
  const [download] = await Promise.all([page.waitForEvent('download'), press()])
  const wav = await wavOf(download)
  const motion = levelMotion(wav.channels[0]!.slice(4800, 4800 + 48_000 * 6), wav.sampleRate)
  // the tone's own level is −12 dBFS
  return { ...motion, low: motion.low + 12, high: motion.high + 12 }
}

test('by mouse: from an empty chain to a linked, saved, rendered WAV whose motion is what the screen says', async ({
  page,
}) => {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('dialog', { name: 'New track' }).getByRole('button', { name: 'Test signals' }).click()
  await page.getByRole('button', { name: 'Add an effect after the source' }).click()
  await page.getByRole('option', { name: /^Gain(?!:)/ }).click()
  await page.getByRole('button', { name: 'Add modulator' }).click()
  await page.getByRole('menuitem', { name: 'LFO' }).click()
  await page.getByRole('button', { name: 'Link LFO' }).click()
  // pressed where its lowest should be, released where its highest should be
  const gauge = page.getByRole('slider', { name: 'Level, Gain' })
  const box = (await gauge.boundingBox())!
  await page.mouse.move(box.x + box.width * 0.5, box.y + 12)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width * 0.6, box.y + 12, { steps: 4 })
  await page.mouse.move(box.x + box.width * 0.66, box.y + 12)
  await page.mouse.up()
  await page.keyboard.press('Escape')
  await page.getByRole('slider', { name: /^Rate, LFO/ }).dblclick()
  await page.getByRole('textbox', { name: 'Value of Rate' }).fill('2')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  const screen = await onScreen(page)
  expect(screen.rate).toBe(2)
  await page.getByRole('link', { name: 'Render', exact: true }).click()
  const measured = await rendered(page, () => page.getByRole('button', { name: 'Render to WAV' }).click())
  expect(measured.rate).toBeCloseTo(screen.rate, 1)
  expect(Math.abs(measured.low - screen.low)).toBeLessThan(0.3)
  expect(Math.abs(measured.high - screen.high)).toBeLessThan(0.3)
  await page.keyboard.press('Escape')
  const [bundle] = await Promise.all([page.waitForEvent('download'), menu(page, 'Project', 'Save to file')])
  expect(bundle.suggestedFilename()).toMatch(/\.zip$/)
})

test('by keyboard alone: the same', async ({ page }) => {
  await open(page)
  const find = async (what: string): Promise<void> => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: 'Search' }).waitFor()
    await page.keyboard.type(what)
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('Home')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
  await find('New project')
  await expect.poll(async () => (await project(page)).name).toBe('Untitled')
  await find('Add a track: test signals')
  await expect.poll(async () => (await project(page)).tracks.length).toBe(2)
  await page.keyboard.press('a')
  await page.getByRole('combobox', { name: 'Search' }).waitFor()
  await page.keyboard.type('gain')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Home')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await page.keyboard.press('j')
  await expect(
    page.getByRole('radiogroup', { name: 'Mode, Gain' }).getByRole('radio', { name: 'level' }),
  ).toBeFocused()
  await page.keyboard.press('Tab')
  await expect(page.getByRole('slider', { name: 'Level, Gain' })).toBeFocused()
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'Value of Level' }).waitFor()
  await page.keyboard.type('-6dB')
  await page.keyboard.press('Enter')
  await page.keyboard.press('m')
  await expect(page.getByRole('menuitem').first()).toBeFocused()
  while (!/new LFO/.test((await page.locator(':focus').textContent()) ?? ''))
    await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('slider', { name: 'Level, Gain' })).toBeFocused()
  await page.keyboard.press('Tab')
  await expect(page.getByRole('slider', { name: /^Minimum of LFO/ })).toBeFocused()
  await page.keyboard.press('PageUp')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Tab')
  await expect(page.getByRole('slider', { name: /^Maximum of LFO/ })).toBeFocused()
  await page.keyboard.press('PageDown')
  const screen = await onScreen(page)
  expect(screen.high).toBeGreaterThan(screen.low + 5)
  await page.locator(':focus').press('Escape')
  await page.keyboard.press('r')
  await page.getByRole('region', { name: 'Render', exact: true }).waitFor()
  do await page.keyboard.press('Tab')
  while (!/Render to WAV/.test((await page.locator(':focus').textContent()) ?? ''))
  const measured = await rendered(page, () => page.keyboard.press('Enter'))
  expect(measured.rate).toBeCloseTo(screen.rate, 1)
  expect(Math.abs(measured.low - screen.low)).toBeLessThan(0.3)
  expect(Math.abs(measured.high - screen.high)).toBeLessThan(0.3)
})

test('the first evening: change the base while it moves, redraw a range, slow the LFO, switch off and on, add, link again, duck, compare, undo all', async ({
  page,
}) => {
  await open(page)
  const before = await project(page)
  await page.keyboard.press('Space')
  const cutoff = page.getByRole('slider', { name: 'Cutoff, Filter' })
  await cutoff.focus()
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight')
  const linkOf = (p: Awaited<ReturnType<typeof project>>) =>
    p.links.find((l) => l.id === 'to-pad-filter-cutoff')!
  const low = page.getByRole('slider', { name: 'Minimum of Slow tide on Cutoff' })
  const box = (await low.boundingBox())!
  await page.mouse.move(box.x + 4, box.y + 8)
  await page.mouse.down()
  await page.mouse.move(box.x - 20, box.y + 8, { steps: 3 })
  await page.mouse.up()
  expect(linkOf(await project(page)).from).toBeLessThan(linkOf(before).from)
  await page.getByRole('button', { name: /^Slow tide/ }).click()
  await page.getByRole('slider', { name: 'Rate, Slow tide' }).press('PageDown')
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  await page.keyboard.press('x')
  await expect(page.getByRole('button', { name: /^Filter, off/ })).toBeVisible()
  await page.keyboard.press('x')
  await page.keyboard.press('a')
  await page.getByRole('option', { name: /^Delay(?!:)/ }).click()
  const added = await page.getByRole('slider', { name: 'Time, Delay' }).getAttribute('data-gauge')
  await page.keyboard.press('g')
  await page.keyboard.press('b')
  await page.getByRole('slider', { name: 'Time, Delay' }).press('Enter')
  await page.keyboard.press('Escape')
  await expect
    .poll(async () =>
      (await project(page)).links.some(
        (l) => l.source === 'gulls' && `${l.target.owner}.${l.target.param}` === added,
      ),
    )
    .toBe(true)
  await page.getByRole('button', { name: 'B', exact: true }).click()
  await expect(page.getByRole('button', { name: 'B', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('c')
  await page.keyboard.press('v')
  await expect(page.getByRole('button', { name: 'Dry', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('v')
  const undo = page.getByRole('button', { name: 'Undo' })
  for (let i = 0; i < 60 && (await undo.isEnabled()); i++) await undo.click()
  expect(await project(page)).toEqual(before)
  const redo = page.getByRole('button', { name: 'Redo' })
  for (let i = 0; i < 60 && (await redo.isEnabled()); i++) await redo.click()
  expect((await project(page)).tracks.find((t) => t.id === 'pad')!.a.nodes).toHaveLength(5)
})
