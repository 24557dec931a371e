import { open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

test('twelve throws are computed beside the page, heard, two bred, one applied and undone; the sheet comes back from the cache', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const start = JSON.stringify(await project(page))
  await page.keyboard.press('Shift+V')
  const sheet = page.getByRole('region', { name: 'Try-outs' })
  await page.keyboard.press('Space')
  await sheet.getByRole('button', { name: 'Run' }).click()
  const cards = sheet.getByRole('article')
  await expect(cards).toHaveCount(12)
  await expect(sheet.getByRole('status')).toHaveText('12 cards', { timeout: 60_000 })
  await expect(cards.first()).toContainText('As it is')
  await expect(cards.nth(3)).toContainText(/LUFS · brightness .* · movement/)
  expect(await serious(page, { within: '[aria-label="Try-outs"]' })).toEqual([])

  await cards.nth(1).focus()
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.auditioned())).not.toBe('')
  const heard = await page.evaluate(() => globalThis.oleaje.auditioned())
  await page.keyboard.press('ArrowRight')
  await expect(cards.nth(2)).toBeFocused()
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.auditioned())).not.toBe(heard)
  await page.keyboard.press('Escape')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.auditioned())).toBe('')
  expect(JSON.stringify(await project(page))).toBe(start)

  await cards.nth(1).getByRole('button', { name: 'Parent' }).click()
  await cards.nth(2).getByRole('button', { name: 'Parent' }).click()
  await sheet.getByRole('button', { name: 'Breed two' }).click()
  await expect(cards).toHaveCount(13)
  await expect(cards.last()).toContainText('Throw 1 × Throw 2')
  await expect(cards.last()).toContainText('LUFS')
  await cards.nth(5).focus()
  await page.keyboard.press('Delete')
  await expect(cards).toHaveCount(12)

  // another visit after a reload: nothing is computed again
  await page.reload()
  await page.waitForFunction(
    () => globalThis.oleaje?.project() != null && document.documentElement.dataset.keys === 'heard',
  )
  await expect(sheet.getByRole('status')).toHaveText('12 cards', { timeout: 4000 })

  await cards.nth(4).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Chart')).toBeVisible()
  expect(JSON.stringify(await project(page))).not.toBe(start)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => JSON.stringify(await project(page))).toBe(start)
})

test('one chain is tried on other sounds, cancelled at once, and a card kept on the shelf', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await page.keyboard.press('Shift+V')
  const sheet = page.getByRole('region', { name: 'Try-outs' })
  await sheet.getByRole('button', { name: 'Try' }).click()
  await page.getByRole('option', { name: 'Other sounds' }).click()
  await sheet.getByRole('button', { name: 'Run' }).click()
  const cards = sheet.getByRole('article')
  await expect(cards).toHaveCount(12)
  await sheet.getByRole('button', { name: 'Cancel' }).click()
  await expect(sheet.getByRole('button', { name: 'Cancel' })).toBeDisabled({ timeout: 1000 })
  await sheet.getByRole('button', { name: 'Run' }).click()
  await expect(sheet.getByRole('status')).toHaveText('12 cards', { timeout: 60_000 })
  await expect(cards.nth(1)).toContainText('another source')
  await cards.nth(1).getByRole('button', { name: 'Keep' }).click()
  await expect(sheet.getByRole('status')).toHaveText(/is on the shelf/)
})
