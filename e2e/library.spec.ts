import type { Page } from '@playwright/test'
import { heardChain } from '@oleaje/core/project/walk'
import type { Track } from '@oleaje/core/project/schema'
import { liveAgainstRender, open, project } from './app'
import { expect, sharing as test } from './fixtures'

const search = (page: Page) => page.getByRole('combobox', { name: 'Search the shelf' })
const details = (page: Page) => page.getByRole('complementary', { name: 'Details of the preset' })
const pad = async (page: Page): Promise<Track> =>
  (await project(page)).tracks.find((t) => t.id === 'pad') as Track
const auditions = (page: Page): Promise<boolean> => page.evaluate(() => globalThis.oleaje.auditioned() !== '')

test('presets are previewed by the arrow keys over the playing song; Escape restores the document bit for bit, and nothing was written', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const before = JSON.stringify(await project(page))
  await page.keyboard.press('Space')
  await page.keyboard.press('f')
  await expect(page.getByRole('option')).not.toHaveCount(0)
  expect(await page.getByRole('option').count()).toBeGreaterThanOrEqual(80)
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown')
  await expect.poll(() => auditions(page)).toBe(true)
  await expect(details(page).getByRole('status')).toHaveText(/as loud as the dry sound/)
  expect(JSON.stringify(await project(page))).toBe(before)
  await page.keyboard.press('Escape')
  await expect.poll(() => auditions(page)).toBe(false)
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
  expect(JSON.stringify(await project(page))).toBe(before)
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Chart')).toBeVisible()
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.01)
  expect(different).toBe(0)
})

test('a shipped chain is found by what it does, narrowed by tag, material and effect, kept as a favourite, and replaces a chain in one step', async ({
  page,
}) => {
  await open(page)
  const start = heardChain(await pad(page)).nodes.length
  await page.keyboard.press('f')
  await search(page).fill('drums that speak')
  await expect(page.getByRole('option').first()).toContainText('Drums that speak')
  await search(page).fill('')
  const filters = page.getByRole('complementary', { name: 'Filters' })
  await filters.getByRole('button', { name: 'space' }).click()
  await filters.getByRole('button', { name: 'guitar' }).click()
  await filters.getByRole('button', { name: 'Effect inside' }).click()
  await page.getByRole('option', { name: 'Grains', exact: true }).click()
  await expect(page.getByRole('listbox', { name: 'Presets' }).getByRole('option')).toHaveCount(1)
  await expect(details(page).getByRole('heading')).toHaveText('Fog over the water')
  await expect(details(page).getByRole('img')).toHaveAttribute('aria-label', /before and after/)
  await details(page).getByRole('button', { name: 'Add to favourites' }).click()
  await filters.getByRole('button', { name: 'Clear filters' }).click()
  await filters.getByRole('radio', { name: 'Favourites' }).click()
  await expect(page.getByRole('listbox', { name: 'Presets' }).getByRole('option')).toHaveCount(1)
  await search(page).focus()
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => heardChain(await pad(page)).nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind)))
    .toEqual(expect.arrayContaining(['grains', 'reverb']))
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => heardChain(await pad(page)).nodes.length).toBe(start)
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
})

test('presets go out as a pack and come back in another browser, described and tagged as they were', async ({
  page,
  browser,
}) => {
  await open(page)
  await page.getByRole('button', { name: 'Fog pad' }).first().focus()
  await page.keyboard.press('Shift+F')
  const dialog = page.getByRole('dialog', { name: 'Keep on shelf' })
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Sandbank')
  await dialog.getByRole('textbox', { name: 'Description' }).fill('A pad that runs aground')
  await page.keyboard.press('Enter')
  await expect(dialog).toHaveCount(0)
  await page.keyboard.press('f')
  await page.getByRole('radio', { name: 'Mine' }).click()
  await details(page).getByRole('textbox', { name: 'Suits' }).fill('pad, voice')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('option', { name: /Sandbank/ })).toContainText('pad, voice')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export pack' }).click(),
  ])
  const other = await browser.newContext()
  const there = await other.newPage()
  await open(there)
  await there.keyboard.press('f')
  const [chooser] = await Promise.all([
    there.waitForEvent('filechooser'),
    there.getByRole('button', { name: 'Import…' }).click(),
  ])
  await chooser.setFiles({
    name: 'pack.zip',
    mimeType: 'application/zip',
    buffer: await (await import('node:fs/promises')).readFile(await download.path()),
  })
  await there.getByRole('radio', { name: 'Mine' }).click()
  await expect(there.getByRole('option', { name: /Sandbank/ })).toContainText('A pad that runs aground')
  await expect(details(there).getByRole('textbox', { name: 'Suits' })).toHaveValue('pad, voice')
  await expect(details(there)).toContainText('Night Ferry, Fog pad')
  await other.close()
})
