import { partsOf } from '@oleaje/core/search/what-matters'
import { open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'
import { Hand } from './hand'

test('what each part of a chain contributes is measured, shown on the chart and in Links, and idle parts are removed and come back', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const hand = new Hand(page)
  await page.getByRole('button', { name: 'Rope guitar', exact: true }).first().click()
  await hand.add('shaper')
  await hand.value('Wet', '0')
  const before = JSON.stringify(await project(page))
  await page.keyboard.press('Shift+W')
  const panel = page.getByRole('complementary', { name: 'What matters' })
  const status = panel.getByRole('status').first()
  await expect(panel.getByRole('button', { name: 'Measure' })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(status).toHaveText(/^\d+ parts, 1 idle$/, { timeout: 60_000 })
  await expect(panel.getByRole('row', { name: /Shaper/ })).toContainText('Wet is at 0 %.')
  await expect(panel.getByRole('row').first()).toContainText(/\d\.\d+ dB/)
  expect(await serious(page, { within: '[aria-label="What matters"]' })).toEqual([])

  await panel.getByRole('button', { name: 'Remove idle…' }).click()
  await expect(panel).toContainText(/Without 1 idle: 0\.0\d dB different/)
  expect(JSON.stringify(await project(page))).toBe(before)
  await panel.getByRole('button', { name: 'Remove', exact: true }).click()
  await expect.poll(async () => JSON.stringify(await project(page))).not.toContain('shaper')
  await expect(status).toHaveText(/^\d+ parts, 0 idle$/, { timeout: 60_000 })
  // an edit is followed, without a key
  await page.getByRole('button', { name: 'Mute Rope guitar' }).click()
  await expect(status).toHaveText(/\d+ of \d+ parts measured|Measuring in a moment/)
  await expect(status).toHaveText(/^\d+ parts, \d+ idle$/, { timeout: 60_000 })
  await page.keyboard.press('Control+z')
  await expect(status).toHaveText(/^\d+ parts, 0 idle$/, { timeout: 60_000 })
  await panel.getByRole('button', { name: 'Measure' }).focus()
  await page.keyboard.press('Escape')
  await expect(panel).toHaveCount(0)

  await page.keyboard.press('k')
  const links = page.getByRole('table', { name: 'All links' })
  await links.getByRole('button', { name: 'Effect on sound' }).click()
  await expect(links.getByRole('row').filter({ hasText: 'Rope guitar' }).first()).toContainText(/\d\.\d dB/)
  await page.keyboard.press('b')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => JSON.stringify(await project(page))).toBe(before)
})

test('every part is measured where reports of the workers arrive late', async ({ page }) => {
  test.slow()
  await page.addInitScript(() => {
    const listen = MessagePort.prototype.addEventListener
    MessagePort.prototype.addEventListener = function (kind: string, hear: unknown, ...rest: unknown[]) {
      const late = (e: Event) => setTimeout(() => (hear as (e: Event) => void)(e), 311)
      return listen.call(this, kind, late, ...(rest as []))
    }
  })
  await open(page)
  await page.keyboard.press('Shift+W')
  const panel = page.getByRole('complementary', { name: 'What matters' })
  const status = panel.getByRole('status').first()
  const count = partsOf(await project(page), 'pad').length
  // the second time from what was kept of the first
  for (let k = 0; k < 2; k++) {
    await panel.getByRole('button', { name: 'Measure' }).click()
    await expect(status).toHaveText(/^\d+ parts, \d+ idle$/, { timeout: 60_000 })
    expect(await status.textContent()).toMatch(new RegExp(`^${count} parts`))
    await expect(panel.getByRole('row')).toHaveCount(count)
  }
})
