import { heardChain } from '@oleaje/core/project/walk'
import type { Track } from '@oleaje/core/project/schema'
import { liveAgainstRender, menu, open, project, ready, serious } from './app'
import { expect, sharing as test } from './fixtures'

test('a morph over two stored states is made by hand, moved on its plane, linked to an LFO, kept, and plays as it renders', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const pad = async (): Promise<Track> => (await project(page)).tracks.find((t) => t.id === 'pad') as Track
  const morph = async () => (await pad()).modulators.find((m) => m.type === 'morph')
  await menu(page, 'Add modulator', 'Morph')
  const store = page.getByRole('button', { name: 'Store here' })
  await store.click()
  const cutoff = page.getByRole('slider', { name: 'Cutoff, Filter' })
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  await cutoff.press('End')
  await store.click()
  await expect.poll(async () => (await morph())?.data?.points).toHaveLength(2)
  await expect(page.getByText('Moves 1 parameter.')).toBeVisible()

  // the second point is taken to the right edge by keys, the position by the pointer
  const second = page.getByRole('button', { name: /^Snapshot 2, at/ })
  for (let i = 0; i < 3; i++) await second.press('ArrowLeft')
  const box = await page.getByRole('img', { name: /2 snapshots and the position/ }).boundingBox()
  if (!box) throw new Error('The plane is not drawn.')
  await page.mouse.move(box.x + 0.3 * box.width, box.y + 0.7 * box.height)
  await page.mouse.down()
  await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.6 * box.height, { steps: 4 })
  await page.mouse.up()
  const { x, y } = ((await morph())?.params ?? {}) as { x: number; y: number }
  expect(x).toBeCloseTo(0.5, 1)
  expect(y).toBeCloseTo(0.4, 1)
  expect(await serious(page, { within: '[data-region=modulators]' })).toEqual([])

  // the position is a parameter like any other
  await page.getByRole('slider', { name: /^X, Morph/ }).focus()
  await page.keyboard.press('m')
  await page.getByRole('menuitem', { name: 'new LFO' }).click()
  await expect.poll(async () => (await project(page)).links.some((l) => l.target.param === 'x')).toBe(true)
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.reload()
  await ready(page)
  // Play waits for the sounds, which come after the project
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.3)
  await page.keyboard.press('Space')
  expect((await morph())?.data?.points).toHaveLength(2)
  expect(heardChain(await pad()).nodes[0]?.params.cutoff).toBeGreaterThan(15_000)
  const { different, loudest } = await liveAgainstRender(page, 3)
  expect(loudest).toBeGreaterThan(0.01)
  expect(different).toBe(0)
})

test('the position of a morph is ridden into a curve and steered by a learnt controller', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const morph = async () =>
    (await project(page)).tracks.find((t) => t.id === 'pad')?.modulators.find((m) => m.type === 'morph')
  await menu(page, 'Add modulator', 'Morph')
  await page.getByRole('button', { name: 'Store here' }).click()
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('End')
  await page.getByRole('button', { name: 'Store here' }).click()
  const x = page.getByRole('slider', { name: /^X, Morph/ })
  await page.keyboard.press('Space')
  await x.focus()
  await page.keyboard.press('w')
  await expect(page.getByText(/Recording a ride of x of Morph/i)).toBeVisible()
  for (let i = 0; i < 5; i++) {
    await page.keyboard.press('PageUp')
    const from = await page.evaluate(() => globalThis.oleaje.live().beat)
    await page.waitForFunction((b) => globalThis.oleaje.live().beat > b + 0.31, from, { polling: 20 })
  }
  await page.keyboard.press('w')
  const id = (await morph())?.id
  await expect
    .poll(async () => {
      const p = await project(page)
      const curves = p.tracks.flatMap((t) => t.modulators.filter((m) => m.type === 'curve').map((m) => m.id))
      return p.links.some((l) => curves.includes(l.source) && l.target.owner === id && l.target.param === 'x')
    })
    .toBe(true)
  await page.keyboard.press('Control+z')

  await page.keyboard.press('u')
  await x.focus()
  await page.keyboard.press('i')
  const fader = page.getByRole('slider', { name: 'Fader 1', exact: true })
  await fader.fill('0.1023622041')
  await expect(page.getByText(/control 20 → Morph, x/i)).toBeVisible()
  await fader.fill('1')
  await fader.fill('0.7007874016')
  await expect.poll(async () => (await morph())?.params.x).toBeCloseTo(0.7008, 2)
})
