import type { Locator, Page } from '@playwright/test'
import { liveAgainstRender, menu, open, project, wavOf } from './app'
import { expect, sharing as test } from './fixtures'

/** A new project with a tone of 220 Hz as its only track. */
async function fresh(page: Page): Promise<void> {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('dialog', { name: 'New track' }).getByRole('button', { name: 'Test signals' }).click()
}
async function add(page: Page, name: string, preset?: string): Promise<void> {
  await page.keyboard.press('a')
  await page.getByRole('combobox', { name: 'Search' }).fill(preset ?? name)
  await page
    .getByRole('option', { name: preset ? new RegExp(preset) : new RegExp(`^${name}(?!:)`) })
    .first()
    .click()
}
/** Into the gauge of the effect itself, which comes after those of its lane's items. */
async function type(page: Page, gauge: string, value: string): Promise<void> {
  await page.getByRole('slider', { name: gauge }).last().focus()
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: /^Value of/ }).fill(value)
  await page.keyboard.press('Enter')
}
const nodes = async (page: Page) => (await project(page)).tracks[0]!.a.nodes
async function render(page: Page): Promise<Float32Array> {
  await page.getByRole('link', { name: 'Render', exact: true }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Render to WAV' }).click(),
  ])
  await page.keyboard.press('Escape')
  return (await wavOf(download)).channels[0]!
}
/** Crossings of zero a second, halved: the frequency of a tone, within a few hertz. */
function frequency(x: Float32Array): number {
  let n = 0
  for (let i = 1; i < x.length; i++) if (x[i]! >= 0 !== x[i - 1]! >= 0) n++
  return n / 2 / (x.length / 48_000)
}
const place = async (cell: Locator, at: number): Promise<{ x: number; y: number }> => {
  const box = (await cell.boundingBox())!
  return { x: box.x + 2 + (box.width - 4) * at, y: box.y + box.height / 2 }
}

test('by mouse: from an empty chain to a stutter whose gate row, slice and speed are drawn, heard and rendered', async ({
  page,
}) => {
  await fresh(page)
  await add(page, 'Stutter')
  const picture = page.getByRole('img', { name: /gate row/ })
  // where the picture is by then: its panel is laid out while it opens
  await expect.poll(async () => ((await picture.boundingBox())?.width ?? 0) > 200).toBe(true)
  await page.evaluate(
    () =>
      new Promise((drawn) =>
        requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(drawn))),
      ),
  )
  const box = (await picture.boundingBox())!
  const step = (k: number): { x: number; y: number } => ({
    x: box.x + (box.width * (k + 0.5)) / 8,
    y: box.y + box.height - 24,
  })
  const open = async (): Promise<number[]> =>
    ((await nodes(page))[0]?.lanes?.steps ?? []).map((s) => s.on ?? 0)
  // steps 4 and 7 are open at first: one stroke opens 1 to 3, a press closes 7
  await page.mouse.move(step(0).x, step(0).y)
  await page.mouse.down()
  await page.mouse.move(step(1).x, step(1).y, { steps: 3 })
  await page.mouse.move(step(2).x, step(2).y, { steps: 3 })
  await page.mouse.up()
  await expect.poll(open).toEqual([1, 1, 1, 1, 0, 0, 1, 0])
  await page.mouse.click(step(6).x, step(6).y)
  expect(await open()).toEqual([1, 1, 1, 1, 0, 0, 0, 0])
  // up and down from an open step is its speed
  await page.mouse.move(step(3).x, step(3).y)
  await page.mouse.down()
  await page.mouse.move(step(3).x, step(3).y + 30, { steps: 4 })
  await page.mouse.up()
  const speed = (await nodes(page))[0]?.lanes?.steps?.[3]?.speed ?? 1
  expect(speed).toBeCloseTo(0.5, 1)
  // across the wave is the slice
  await page.mouse.move(box.x + box.width * 0.5, box.y + 60)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width * (0.5 - 1 / 6), box.y + 60, { steps: 4 })
  await page.mouse.up()
  expect((await nodes(page))[0]?.params.sliceLength).toBeCloseTo(0.125, 2)
  await type(page, 'Speed, Stutter', '0.5')
  const y = await render(page)
  // at 120 bpm a step takes a quarter of a second: the first slice passes, then all is an octave down, and
  // from step 5 on it is as it was
  expect(frequency(y.subarray(0.3 * 48_000, 0.7 * 48_000))).toBeLessThan(150)
  expect(Math.abs(frequency(y.subarray(1.1 * 48_000, 1.9 * 48_000)) - 220)).toBeLessThan(3)
})

test('by keyboard: the same stutter from the table of its row', async ({ page }) => {
  await fresh(page)
  await add(page, 'Stutter')
  const cell = (name: string, k: number): Locator => page.getByRole('slider', { name: `${name}, step ${k}` })
  await cell('Open', 1).focus()
  for (const key of [
    'Enter',
    'ArrowDown',
    'Enter',
    'ArrowDown',
    'Enter',
    'ArrowDown',
    'ArrowDown',
    'ArrowDown',
    'ArrowDown',
    'Enter',
  ])
    await page.keyboard.press(key)
  expect(((await nodes(page))[0]?.lanes?.steps ?? []).map((s) => s.on ?? 0)).toEqual([1, 1, 1, 1, 0, 0, 0, 0])
  await type(page, 'Slice (note), Stutter', '1/32')
  await type(page, 'Speed, Stutter', '0.5')
  const y = await render(page)
  expect(frequency(y.subarray(0.3 * 48_000, 0.7 * 48_000))).toBeLessThan(150)
  expect(Math.abs(frequency(y.subarray(1.1 * 48_000, 1.9 * 48_000)) - 220)).toBeLessThan(3)
})

test('a field of taps drawn in one stroke across its table, and diced by column with one locked; one undo each', async ({
  page,
}) => {
  await fresh(page)
  await add(page, 'Taps')
  const taps = async () => (await nodes(page))[0]?.lanes?.taps ?? []
  const cell = (name: string, k: number): Locator =>
    page.getByRole('slider', { name: `${name}, tap ${k}`, exact: true })
  await cell('Level', 1).scrollIntoViewIfNeeded()
  const from = await place(cell('Level', 1), 0.95),
    to = await place(cell('Level', 6), 0.3)
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 7 })
  await page.mouse.up()
  const drawn = (await taps()).map((t) => t.level ?? 0)
  for (let k = 1; k < drawn.length; k++) expect(drawn[k]).toBeLessThan(drawn[k - 1]!)
  expect(drawn[0]).toBeGreaterThan(0)
  expect(drawn[5]).toBeCloseTo(-60 + 66 * 0.3, 0)
  const head = (name: string): Locator =>
    page.getByRole('table', { name: 'Taps as a table' }).getByRole('button', { name: new RegExp(`^${name}`) })
  await head('Level').click()
  await page.getByRole('menuitem', { name: 'Lock' }).click()
  await head('Pan').click()
  await page.getByRole('menuitem', { name: 'Randomise pan' }).click()
  const pans = (await taps()).map((t) => t.pan ?? 0)
  expect(new Set(pans).size).toBe(6)
  // the whole table, but for the column that is locked and the tap that is spared
  await page.getByRole('button', { name: 'Lock tap 2 against randomising' }).click()
  const before = await taps()
  await page.getByRole('button', { name: 'Randomise', exact: true }).click()
  const after = await taps()
  expect(after.map((t) => t.level)).toEqual(before.map((t) => t.level))
  expect(after[1]).toEqual(before[1])
  expect(after[0]?.cutoff).not.toBe(before[0]?.cutoff)
  await page.getByRole('button', { name: 'Undo' }).click()
  expect(await taps()).toEqual(before)
})

test('a loop-back made around two effects, by mouse and by key; the chart says what goes round, and the worklet plays what Node renders', async ({
  page,
}) => {
  await fresh(page)
  await add(page, 'Filter')
  await add(page, 'Delay')
  await page.getByRole('button', { name: /^Filter/ }).click()
  await page.getByRole('button', { name: /^Delay, on/ }).click({ modifiers: ['Shift'] })
  await menu(page, /^Actions for/, 'Loop-back', '[data-region=effect]')
  let [loop] = await nodes(page)
  expect(loop?.kind).toBe('loop-back')
  expect(loop && 'nodes' in loop ? loop.nodes.length : 0).toBe(2)
  await expect(page.getByRole('button', { name: /feedback after 1\/4, 50 %/ })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await page.getByRole('button', { name: /^Filter/ }).click()
  await page.getByRole('button', { name: /^Delay, on/ }).click({ modifiers: ['Shift'] })
  await page.keyboard.press('y')
  ;[loop] = await nodes(page)
  expect(loop?.kind).toBe('loop-back')
  await type(page, 'Feedback, Loop-back', '70')
  await expect(page.getByRole('button', { name: /feedback after 1\/4, 70 %/ })).toBeVisible()
  await expect(page.getByText(/One pass takes 500\.0 ms\. The minimum is/)).toBeVisible()
  const { different, loudest } = await liveAgainstRender(page, 3)
  expect(loudest).toBeGreaterThan(0.1)
  expect(different).toBe(0)
  await menu(page, /^Actions for/, 'Unwrap', '[data-region=effect]')
  expect((await nodes(page)).map((n) => n.kind)).toEqual(['effect', 'effect'])
})

test('what the worklet plays and what Node renders are identical in every bit with every way of time at work', async ({
  page,
}) => {
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: /ways of time/ }).click()
  await expect.poll(async () => (await project(page)).name).toBe('Night Ferry: ways of time')
  // all of them at once, turned down
  for (const name of [
    'Cloud of taps',
    'Half-speed stutter',
    'Metal rain',
    'Worn record',
    'Barber pole',
    'Tape stop',
  ])
    await page.getByRole('button', { name: `Mute ${name}` }).click()
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  const { different, loudest } = await liveAgainstRender(page, 4)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})
