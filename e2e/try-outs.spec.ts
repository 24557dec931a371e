import { writeWav } from '@oleaje/core/formats/wav'
import { drop, open, project, serious, wavOf } from './app'
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
  await expect(sheet.getByRole('status')).toHaveText('12 cards', { timeout: 120_000 })
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
  const cancel = sheet.getByRole('button', { name: 'Cancel' })
  // from the click to a page that says so, with all workers ended
  const ms = await cancel.evaluate(async (button: HTMLButtonElement) => {
    const from = performance.now()
    button.click()
    while (!button.disabled) await new Promise(requestAnimationFrame)
    return performance.now() - from
  })
  expect(ms).toBeLessThan(100)
  await sheet.getByRole('button', { name: 'Run' }).click()
  await expect(sheet.getByRole('status')).toHaveText('12 cards', { timeout: 120_000 })
  await expect(cards.nth(1)).toContainText('another source')
  // a kit is silent here, as this track has no notes
  const other = cards.filter({ hasText: 'LUFS' }).nth(1)
  await other.getByRole('button', { name: 'Keep' }).click()
  await expect(sheet.getByRole('status')).toHaveText(/is on the shelf/)

  // what was kept can be rendered
  const name = (await other.getByRole('heading').textContent()) ?? ''
  await page.keyboard.press('r')
  const order = page.getByRole('form', { name: 'Order' })
  await order.getByRole('button', { name: /^What/ }).click()
  await page.getByRole('option', { name: 'Try-outs that were kept' }).click()
  const rows = page.getByRole('region', { name: 'Render', exact: true }).getByRole('row')
  await expect(rows).toHaveCount(2)
  await expect(rows.nth(1)).toContainText(`Night Ferry ${name.trim()} loop.wav`)
  await order.getByRole('button', { name: /^Tail/ }).click()
  await page.getByRole('option', { name: 'none' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60_000 }),
    page.getByRole('button', { name: 'Render to WAV' }).click(),
  ])
  const { channels } = await wavOf(download)
  expect(Math.max(...(channels[0] ?? []).slice(48_000, 96_000))).toBeGreaterThan(0.003)
})

test('the chain as it is is the first card of a view just opened; dropped sounds are tried before others', async ({
  page,
}) => {
  await open(page)
  const start = JSON.stringify(await project(page))
  await page.keyboard.press('Shift+V')
  const sheet = page.getByRole('region', { name: 'Try-outs' })
  const cards = sheet.getByRole('article')
  await expect(cards).toHaveCount(1)
  await expect(cards.first()).toContainText(/As it is[\s\S]*LUFS/, { timeout: 20_000 })

  const tone = Float32Array.from(
    { length: 17_760 },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * 311 * i) / 48_000),
  )
  const wav = writeWav({ sampleRate: 48_000, channels: [tone] }, 24)
  await drop(page, 'wharf gulls.wav', wav, '[aria-label="Try-outs"]')
  await expect(cards).toHaveCount(12)
  await expect(cards.nth(1)).toContainText('wharf gulls')
  await expect(cards.nth(1)).toContainText('LUFS', { timeout: 60_000 })
  expect(JSON.stringify(await project(page))).toBe(start)
})
