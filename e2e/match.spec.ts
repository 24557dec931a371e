import { writeWav } from '@oleaje/core/formats/wav'
import { drop, open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

test('a chain is steered towards a dropped sound: paused, continued, stopped, shown as cards, applied and undone', async ({
  page,
}) => {
  test.slow()
  await open(page)
  const before = JSON.stringify(await project(page))
  await page.getByRole('button', { name: 'Rope guitar', exact: true }).first().click()
  await page.keyboard.press('Shift+V')
  await page.getByRole('button', { name: 'Match…' }).click()
  const match = page.getByRole('region', { name: 'Match' })
  const status = match.getByRole('status')
  await expect(match.getByRole('button', { name: 'Search' })).toBeDisabled()
  let seed = 3
  const noise = Float32Array.from({ length: 48_000 * 3 }, (_, i) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    return (seed / 2 ** 31 - 1) * 0.3 * Math.exp((-5 * (i % 17_760)) / 48_000)
  })
  const wav = writeWav({ sampleRate: 48_000, channels: [noise] }, 24)
  await drop(page, 'wanted.wav', wav, '[aria-label="Match"]')
  await expect(status).toHaveText('Reference: wanted')
  await match.getByRole('button', { name: 'Search' }).click()
  await expect(status).toHaveText(/^\d+ tries: [\d.]+ dB at first, now [\d.]+ dB$/, { timeout: 90_000 })
  await match.getByRole('button', { name: 'Pause' }).click()
  const sheet = page.getByRole('region', { name: 'Try-outs' })
  await expect(sheet.getByRole('article').nth(1)).toContainText(/Match 1, [\d.]+ dB away/, {
    timeout: 30_000,
  })
  const paused = await status.textContent()
  await expect(match.getByText(/^Nearest: tone/)).toBeVisible()
  expect(await serious(page, { within: '[aria-label="Match"]' })).toEqual([])
  await match.getByRole('button', { name: 'Resume' }).click()
  await expect(status).not.toHaveText(paused ?? '', { timeout: 30_000 })
  await match.getByRole('button', { name: 'Stop' }).click()
  await expect(match.getByRole('button', { name: 'Search' })).toBeEnabled({ timeout: 30_000 })
  expect(JSON.stringify(await project(page))).toBe(before)

  await sheet.getByRole('article').nth(1).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Chart')).toBeVisible()
  expect(JSON.stringify(await project(page))).not.toBe(before)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => JSON.stringify(await project(page))).toBe(before)
})
