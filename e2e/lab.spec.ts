import { readFileSync } from 'node:fs'
import type { Download, Page } from '@playwright/test'
import { drop, menu, open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

const kind = async (page: Page, name: string): Promise<void> => {
  await page
    .getByRole('navigation', { name: 'Measurements' })
    .getByRole('button', { name, exact: true })
    .click()
}
const view = (page: Page) => page.getByRole('region', { name: 'Lab', exact: true })
const measured = async (page: Page): Promise<void> => {
  await expect(view(page).getByRole('button', { name: 'Cancel' })).toBeDisabled()
  await expect(view(page).getByRole('group', { name: /^Chart: / })).toBeVisible()
}
const text = async (download: Download): Promise<string> => readFileSync(await download.path(), 'utf8')
const file = async (page: Page, action: RegExp): Promise<Download> => {
  const [download] = await Promise.all([page.waitForEvent('download'), menu(page, 'Files', action)])
  return download
}

test('a chain is measured by keyboard, read at cursors, saved as CSV, PNG and SVG, and its CSV laid over it', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Shift+M')
  await measured(page)
  await kind(page, 'Frequency response')
  await measured(page)
  expect(await serious(page, { within: 'main' })).toEqual([])
  const chart = view(page).getByRole('group', { name: /^Chart: Magnitude/ })
  const values = view(page).getByRole('table', { name: 'Values at the cursors' })
  await chart.focus()
  await page.keyboard.press('ArrowRight')
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight')
  await expect(values).toContainText(/Cursor 1, [\d.]+ Hz/)
  await expect(values).toContainText(/Cursor 2, [\d.]+ Hz/)
  await expect(values.getByRole('row').nth(1)).toContainText(/−?[\d.]+ dB.*−?[\d.]+ dB.*−?[\d.]+ dB/)

  const csv = await text(await file(page, /CSV/))
  const rows = csv.split('\r\n')
  expect(rows[0]).toBe('Curve,Frequency (Hz),Gain (dB)')
  expect(rows.length).toBeGreaterThan(300)
  // what stands at the cursor is a row of the table
  const shown = (await values.getByRole('row').nth(1).getByRole('cell').first().innerText()).replace('−', '-')
  expect(rows.some((r) => Math.abs(Number(r.split(',')[2]) - parseFloat(shown)) < 0.006)).toBe(true)
  const svg = await text(await file(page, /SVG/))
  expect(svg).toContain('<svg')
  expect(svg).toContain('Frequency, Hz')
  const png = readFileSync(await (await file(page, /PNG/)).path())
  expect(png.subarray(1, 4).toString()).toBe('PNG')
  expect(png.readUInt32BE(16)).toBeGreaterThan(1000)

  await drop(page, 'earlier.csv', Buffer.from(csv), '[aria-label="Lab"]')
  await expect(values.getByRole('row')).toHaveCount(3)
  await view(page).getByRole('button', { name: 'Difference' }).click()
  await expect(values.getByRole('row')).toHaveCount(2)
  await chart.focus()
  await page.keyboard.press('ArrowRight')
  await expect(values.getByRole('row').nth(1).getByRole('cell').first()).toHaveText(/^−?0\.0\d dB$/)
  await drop(page, 'empty.csv', Buffer.from('nothing'), '[aria-label="Lab"]')
  await expect(view(page).getByRole('status')).toContainText('has no points')
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/\/$/)
})

test('versions and snapshots are laid over each other; a measurement is kept with the project, repeated and undone', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Shift+M')
  await measured(page)
  await kind(page, 'Frequency response')
  await measured(page)
  const values = view(page).getByRole('table', { name: 'Values at the cursors' })
  await view(page).getByRole('switch', { name: /^Dry/ }).click()
  await expect(values.getByRole('row')).toHaveCount(3)
  await view(page).getByRole('switch', { name: /^Dry/ }).click()
  await expect(values.getByRole('row')).toHaveCount(2)
  // what was changed elsewhere is measured when the view is opened again
  const highest = view(page).getByRole('table', { name: 'Figures' }).getByRole('cell').first()
  const before = await highest.innerText()
  await page.getByRole('link', { name: 'Bench' }).click()
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Filter/ })
    .first()
    .click()
  await page.keyboard.press('x')
  await page.keyboard.press('Shift+M')
  await expect(highest).not.toHaveText(before)
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await page.getByRole('link', { name: 'Bench' }).click()
  await page.getByRole('link', { name: 'Lab' }).click()
  await expect(highest).toHaveText(before)
  await view(page).getByRole('button', { name: 'Keep', exact: true }).click()
  expect((await project(page)).measurements).toHaveLength(1)
  await kind(page, 'Echo map')
  await measured(page)
  await view(page)
    .getByRole('button', { name: /^Repeat Fog pad, frequency response/ })
    .click()
  await measured(page)
  await expect(values.getByRole('row')).toHaveCount(3)
  await view(page).getByRole('button', { name: 'Difference' }).click()
  await view(page)
    .getByRole('group', { name: /^Chart: Magnitude/ })
    .focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await expect(values.getByRole('row').nth(1).getByRole('cell').first()).toHaveText(/^−?0\.0\d dB$/)
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  expect((await project(page)).measurements ?? []).toHaveLength(0)
})

test('every measurement of the demo gives a chart', async ({ page }) => {
  test.slow()
  await open(page)
  await page.keyboard.press('Shift+M')
  await measured(page)
  const names = await page
    .getByRole('navigation', { name: 'Measurements' })
    .getByRole('button')
    .allInnerTexts()
  expect(names.length).toBeGreaterThan(13)
  for (const name of names) {
    await kind(page, name)
    await measured(page)
    await expect(view(page).getByRole('status')).not.toContainText('failed')
  }
})
