import { apply } from '@oleaje/core/project/edit'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Track } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { drop, liveAgainstRender, open, project } from './app'
import { expect, sharing as test } from './fixtures'

/** A chain without what is its own wherever it stands: ids and letters. */
async function chainOf(page: Page, name: string): Promise<string> {
  const p = await project(page)
  const t = p.tracks.find((x) => x.name === name) as Track
  const own = new Map<string, number>()
  const plain = (id: string): number => {
    if (!own.has(id)) own.set(id, own.size)
    return own.get(id) ?? -1
  }
  const nodes = JSON.stringify(heardChain(t).nodes, (key, v: unknown) =>
    key === 'id' && typeof v === 'string' ? plain(v) : v,
  )
  const modulators = new Set(t.modulators.map((m) => m.id))
  const links = p.links
    .filter((l) => modulators.has(l.source))
    .map((l) => [plain(l.source), plain(l.target.owner), l.target.param, l.from, l.to, l.mode, l.amount])
  return `${nodes} ${t.modulators.map((m) => JSON.stringify([m.type, m.params, m.seed])).join()} ${JSON.stringify(links.length)}`
}
const button = (page: Page, name: string | RegExp) =>
  page.getByRole('button', { name, exact: typeof name === 'string' }).first()

async function keep(page: Page, name: string): Promise<void> {
  await page.keyboard.press('Shift+F')
  await page.getByRole('dialog', { name: 'Keep on shelf' }).getByRole('textbox', { name: 'Name' }).fill(name)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

test('a chain is kept, found by three letters, listened to, taken onto new track and into another project, exported, removed, brought back and imported: the same each time', async ({
  page,
}) => {
  test.slow()
  await open(page)
  // the whole chain, as the track itself has the focus
  await button(page, 'Fog pad').focus()
  await keep(page, 'Moonlit fog')
  await page.keyboard.press('f')
  await page.getByRole('combobox', { name: 'Search the shelf' }).fill('moo')
  const row = page.getByRole('option', { name: /Moonlit fog/ })
  const details = page.getByRole('complementary', { name: 'Details of the preset' })
  await details.getByRole('button', { name: 'Preview' }).click()
  await expect(details.getByRole('status')).toHaveText(/as loud as the dry sound/)
  await details.getByRole('button', { name: 'On new track' }).click()
  await expect.poll(async () => (await project(page)).tracks.some((t) => t.name === 'Moonlit fog')).toBe(true)
  const first = await chainOf(page, 'Moonlit fog')
  await page.keyboard.press('Control+z')
  await expect
    .poll(async () => (await project(page)).tracks.some((t) => t.name === 'Moonlit fog'))
    .toBe(false)

  await page.keyboard.press('f')
  await row.click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    details.getByRole('button', { name: 'Export…' }).click(),
  ])
  const file = readFileSync(await download.path())
  await button(page, 'Remove Moonlit fog').click()
  await expect(row).toHaveCount(0)
  await button(page, 'Restore').click()
  await expect(row).toBeVisible()
  await row.click()
  await button(page, 'Remove Moonlit fog').click()
  await expect(row).toHaveCount(0)
  await page.getByRole('link', { name: 'Bench' }).click()

  await page.keyboard.press('p')
  await button(page, 'New').click()
  await button(page, 'Take Fog pad').click()
  await expect.poll(async () => (await project(page)).tracks[0]?.name).toBe('Fog pad')
  await drop(page, 'moonlit.json', file)
  await page.keyboard.press('f')
  await page.getByRole('combobox', { name: 'Search the shelf' }).fill('moonlit')
  await page.keyboard.press('Control+Enter')
  await expect.poll(async () => heardChain((await project(page)).tracks[0] as Track).nodes.length).toBe(4)
  expect(await chainOf(page, 'Fog pad')).toBe(first)
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.01)
  expect(different).toBe(0)
})

test('effects are copied, cut and pasted by key within a track and onto another, modulators too', async ({
  page,
}) => {
  await open(page)
  const types = async (id: string): Promise<string> =>
    heardChain((await project(page)).tracks.find((t) => t.id === id) as Track)
      .nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind))
      .join(' ')
  const before = await types('bass')
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Drive/ })
    .click()
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Control+v')
  await expect.poll(() => types('pad')).toBe('filter drive drive delay reverb')
  await page.keyboard.press('Control+x')
  await expect.poll(() => types('pad')).toBe('filter drive delay reverb')
  await button(page, 'Hull bass').click()
  await page.keyboard.press('Control+v')
  await expect.poll(() => types('bass')).not.toBe(before)
  await button(page, 'Fog pad').click()
  await button(page, 'Link Gulls').focus()
  await page.keyboard.press('Control+c')
  await button(page, 'Hull bass').click()
  await page.keyboard.press('Control+v')
  await expect
    .poll(async () =>
      (await project(page)).tracks.find((t) => t.id === 'bass')?.modulators.some((m) => m.name === 'Gulls'),
    )
    .toBe(true)
  // a branch, into the split that is chosen
  await button(page, 'Deck kit').click()
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Split into/ })
    .first()
    .click()
  const branches = async (): Promise<string[]> =>
    heardChain((await project(page)).tracks.find((t) => t.id === 'kit') as Track).nodes.flatMap((n) =>
      n.kind === 'split'
        ? n.branches.map((b) => b.nodes.map((x) => (x.kind === 'effect' ? x.type : x.kind)).join(' '))
        : [],
    )
  const [straight, dirty] = await branches()
  await page.getByRole('slider', { name: 'Level, dirty copy', exact: true }).focus()
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Control+v')
  await expect.poll(branches).toEqual([straight, dirty, dirty])
})

test('a key acts on what has the focus: Delete on a track, on a macro, on a button; Space on a button', async ({
  page,
}) => {
  await open(page)
  const count = async (): Promise<number[]> => {
    const p = await project(page)
    const pad = p.tracks.find((t) => t.id === 'pad')
    return [p.tracks.length, pad ? heardChain(pad).nodes.length : -1, pad?.modulators.length ?? -1]
  }
  expect(await count()).toEqual([8, 4, 4])
  await page.getByRole('slider', { name: 'Macro Haze' }).focus()
  await page.keyboard.press('Delete')
  await expect.poll(count).toEqual([8, 4, 3])
  await button(page, 'Undo').focus()
  await page.keyboard.press('Delete')
  expect(await count()).toEqual([8, 4, 3])
  await page.keyboard.press('Space')
  await expect.poll(count).toEqual([8, 4, 4])
  await expect(button(page, 'Play')).toBeVisible()
  await button(page, 'Deck kit').focus()
  await page.keyboard.press('d')
  await expect.poll(count).toEqual([9, 4, 4])
  await page.keyboard.press('Control+z')
  await button(page, 'Deck kit').focus()
  await page.keyboard.press('Delete')
  await expect.poll(count).toEqual([7, 4, 4])
})

test('nine snapshots are taken, survive a reload, and are gone to in one step', async ({ page }) => {
  await open(page)
  const cutoff = async (): Promise<number | undefined> =>
    (await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes[0]?.params.cutoff
  const gauge = page.getByRole('slider', { name: 'Cutoff, Filter' })
  const values: (number | undefined)[] = []
  for (let slot = 1; slot <= 9; slot++) {
    await gauge.press('PageUp')
    if (slot === 5) await gauge.press('Home')
    values.push(await cutoff())
    await page.keyboard.press(`Shift+${slot}`)
  }
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.reload()
  await page.waitForFunction(
    () => globalThis.oleaje.project() !== null && document.documentElement.dataset.keys === 'heard',
  )
  for (const slot of [3, 5, 9]) {
    await page.keyboard.press(String(slot))
    await expect.poll(cutoff).toBe(values[slot - 1])
  }
  await button(page, 'Undo').click()
  await expect.poll(cutoff).toBe(values[4])
})

test('a drag is taken back by Escape; a double click types and moves nothing; the wheel scrolls and steps only what has the focus', async ({
  page,
}) => {
  await open(page)
  const gauge = page.getByRole('slider', { name: 'Cutoff, Filter' })
  const value = (): Promise<string | null> => gauge.getAttribute('aria-valuetext')
  const start = await value()
  const box = await gauge.boundingBox()
  if (!box) throw new Error('The gauge is not drawn.')
  await page.mouse.move(box.x + 40, box.y + 12)
  await page.mouse.down()
  await page.mouse.move(box.x + 120, box.y + 12, { steps: 4 })
  await expect.poll(value).not.toBe(start)
  await page.keyboard.press('Escape')
  await expect.poll(value).toBe(start)
  await page.mouse.up()
  await expect(button(page, 'Undo')).toBeDisabled()
  await gauge.dblclick({ position: { x: 20, y: 12 } })
  await expect(page.getByRole('textbox', { name: 'Value of Cutoff' })).toHaveValue(start ?? '')
  await page.keyboard.press('Escape')
  expect(await value()).toBe(start)
  const before = (await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes[0]?.params.cutoff
  await page.mouse.move(box.x + 60, box.y + 12)
  await page.getByRole('slider', { name: 'Resonance, Filter' }).focus()
  await page.mouse.wheel(0, -300)
  await gauge.focus()
  await page.mouse.wheel(0, -100)
  // one step in all: those of the wheel over what had no focus were none
  const set = async (): Promise<number | undefined> =>
    (await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes[0]?.params.cutoff
  await expect.poll(set).not.toBe(before)
  expect(Math.log(((await set()) ?? 0) / (before ?? 1))).toBeCloseTo(0.01 * Math.log(1000), 6)
})

test('staffs, choices and keys on the screen answer the hand as they say', async ({ page }) => {
  const track = newTrack('Keys', newSource('played', { plays: 1 }, null, 's'), 'keys')
  track.a.nodes = [newEffect('filter', {}, 'f')]
  const bare = newProject('Skerries')
  bare.tracks.unshift(track)
  await open(page, apply(bare, addModulator('keys', 'macro', { id: 'm' })).next)
  const macro = async (): Promise<number> =>
    (await project(page)).tracks[0]?.modulators[0]?.params.value ?? NaN
  const slope = async (): Promise<number> => (await project(page)).tracks[0]?.a.nodes[0]?.params.slope ?? NaN

  // a staff goes where it is pressed; with Shift it stays and moves finely
  const staff = await page.getByRole('slider', { name: /^Macro / }).boundingBox()
  if (!staff) throw new Error('The staff is not drawn.')
  const first = await macro()
  await page.mouse.move(staff.x + 15, staff.y + 0.2 * staff.height)
  await page.keyboard.down('Shift')
  await page.mouse.down()
  await page.mouse.up()
  await page.keyboard.up('Shift')
  expect(await macro()).toBe(first)
  await page.mouse.down()
  await page.mouse.up()
  await expect.poll(macro).toBeCloseTo(0.8, 1)

  // a choice that is typed: one that there is not is refused, and the field stays
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  const gauge = page.locator('[data-gauge="f.slope"]')
  await gauge.locator('[tabindex="0"], button').first().focus()
  await page.keyboard.press('Enter')
  const field = page.getByRole('textbox', { name: 'Value of Slope' })
  await field.fill('sideways')
  await page.keyboard.press('Enter')
  await expect(field).toBeVisible()
  expect(await slope()).toBe(0)
  await field.fill('24 dB/oct')
  await page.keyboard.press('Enter')
  await expect(field).toHaveCount(0)
  await expect.poll(slope).toBe(1)

  // a key sounds while it is pressed, and the next one where the hand goes on
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  const keys = await page.getByRole('img', { name: 'Keys that play Keys' }).boundingBox()
  if (!keys) throw new Error('The keys are not drawn.')
  const sounding = (): Promise<number> =>
    page.evaluate(() => globalThis.oleaje.value('read:source:keys:voices'))
  const note = (): Promise<number> => page.evaluate(() => globalThis.oleaje.value('read:source:keys:note'))
  await page.mouse.move(keys.x + 0.2 * keys.width, keys.y + 20)
  await page.mouse.down()
  await expect.poll(sounding).toBe(1)
  const low = await note()
  await page.mouse.move(keys.x + 0.7 * keys.width, keys.y + 20, { steps: 3 })
  await expect.poll(note).toBeGreaterThan(low + 5)
  await page.mouse.up()
  await expect.poll(sounding).toBe(0)
})
