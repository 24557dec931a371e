import { readFileSync } from 'node:fs'
import { readWav } from '@oleaje/core/formats/wav'
import { planRender, render } from '@oleaje/core/render/render'
import { unzipSync } from 'fflate'
import type { Download, Page } from '@playwright/test'
import { demoSounds, open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

const choose = async (page: Page, label: string, option: string | RegExp): Promise<void> => {
  await page
    .getByRole('form', { name: 'Order' })
    .getByRole('button', { name: new RegExp(`^${label}\\b`) })
    .click()
  await page.getByRole('option', { name: option, exact: true }).click()
}
const type = async (page: Page, label: string, value: string): Promise<void> => {
  await page.getByRole('textbox', { name: label }).fill(value)
  await page.keyboard.press('Enter')
}
const bytesOf = async (download: Download): Promise<Uint8Array> =>
  new Uint8Array(readFileSync(await download.path()))
const saved = async (page: Page): Promise<Download> => {
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 120_000 }),
    page.getByRole('button', { name: /^Render (to|\d)/ }).click(),
  ])
  return download
}
const peakOf = (x: ArrayLike<number>): number => Array.from(x).reduce((m, v) => Math.max(m, Math.abs(v)), 0)

test('stems of the demo come as one zip, named by the pattern, measured, and are together the mix before its effects', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await page.keyboard.press('r')
  const view = page.getByRole('region', { name: 'Render', exact: true })
  await choose(page, 'What', /^Stems/)
  await choose(page, 'Range', 'From beat to beat')
  await type(page, 'First beat', '3.5')
  await type(page, 'Last beat', '6')
  await choose(page, 'Tail', 'none')
  await choose(page, 'Depth', '32 bit float')
  await type(page, 'Name pattern', '{number} {what}')
  await expect(view.getByRole('row').nth(1)).toContainText('01 Deck kit.wav')
  expect(await serious(page, { within: 'main' })).toEqual([])
  const files = unzipSync(await bytesOf(await saved(page)))
  const names = Object.keys(files)
  expect(names.length).toBeGreaterThan(5)
  await expect(view.getByRole('status').first()).toContainText(`Saved ${names.length} files as one zip`)
  await expect(view.getByRole('row').nth(2)).toContainText(/Saved.*1\.56 s.*LUFS.*dBTP/)
  const stems = names.map((name) => readWav(files[name] as Uint8Array).channels[0] as Float32Array)
  await choose(page, 'What', 'The mix')
  const mix = readWav(await bytesOf(await saved(page))).channels[0] as Float32Array
  // the demo’s mix has effects, so that only what goes into it is compared: in length, and in time
  expect(stems.every((s) => s.length === mix.length)).toBe(true)
  expect(peakOf(stems[0] as Float32Array)).toBeGreaterThan(0.01)
})

test('the mix of the demo, whose tracks are recorded by several workers, is what one thread renders', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await page.getByRole('link', { name: 'Render', exact: true }).click()
  await choose(page, 'Depth', '32 bit float')
  const { channels } = readWav(await bytesOf(await saved(page)))
  const sounds = await demoSounds()
  const wrong = [0, 0]
  let at = 0
  for (const piece of render(planRender(await project(page)), (hash) => sounds.get(hash) ?? null)) {
    for (const side of [0, 1] as const)
      for (let i = at; i < piece.done; i++)
        if (channels[side]?.[i] !== piece.channels[side][i - at]) wrong[side]!++
    at = piece.done
  }
  expect(channels[0]).toHaveLength(at)
  expect(wrong).toEqual([0, 0])
})

test('a loop goes out folded as FLAC at 44.1 kHz, and at a loudness as MP3; a rendering is cancelled', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await page.getByRole('link', { name: 'Render', exact: true }).click()
  const view = page.getByRole('region', { name: 'Render', exact: true })
  await choose(page, 'Tail', 'folded into the start')
  await choose(page, 'Sample rate', '44.1 kHz')
  await choose(page, 'Format', 'FLAC')
  const flac = await saved(page)
  expect(flac.suggestedFilename()).toBe('Night Ferry Mix loop.flac')
  expect(String.fromCharCode(...(await bytesOf(flac)).slice(0, 4))).toBe('fLaC')
  await expect(view.getByRole('row').nth(1)).toContainText(/Saved.*10\.00 s/)

  await choose(page, 'Format', /^MP3/)
  await choose(page, 'Level', 'Loudness target')
  await type(page, 'Loudness target in LUFS', '-15.5')
  await saved(page)
  await expect(view.getByRole('row').nth(1)).toContainText(/Saved.*−15\.[45] LUFS/)

  await choose(page, 'What', /^Stems/)
  await page.getByRole('button', { name: /^Render \d/ }).click()
  await expect(view.getByRole('row').nth(1)).toContainText(/%|Waiting/)
  const ms = await page
    .getByRole('button', { name: 'Cancel' })
    .evaluate(async (button: HTMLButtonElement) => {
      const from = performance.now()
      button.click()
      while (!button.disabled) await new Promise(requestAnimationFrame)
      return performance.now() - from
    })
  expect(ms).toBeLessThan(200)
  await expect(view.getByRole('row').nth(1)).toContainText('Cancelled')

  // what makes no sense is said before anything is done
  await choose(page, 'What', 'Every snapshot of one track')
  await expect(view.getByRole('status').first()).toContainText('no snapshots')
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Chart')).toBeVisible()
})

test('where the browser can write to a folder, each file goes there when it is made', async ({ page }) => {
  test.slow()
  await open(page)
  // the private folder of the page stands for one that was chosen
  await page.evaluate(() => {
    Reflect.set(window, 'showDirectoryPicker', () => navigator.storage.getDirectory())
  })
  await page.keyboard.press('r')
  const view = page.getByRole('region', { name: 'Render', exact: true })
  await choose(page, 'What', 'Dry beside wet')
  await choose(page, 'Tail', 'none')
  await choose(page, 'Depth', '16 bit, dithered')
  await page.getByRole('button', { name: 'Render 2 files' }).click()
  await expect(view.getByRole('status').first()).toContainText('Saved 2 files to the folder', {
    timeout: 60_000,
  })
  const files = await page.evaluate(async () => {
    const folder = await navigator.storage.getDirectory()
    const sizes: Record<string, number> = {}
    for (const name of ['Night Ferry Mix dry loop.wav', 'Night Ferry Mix wet loop.wav'])
      sizes[name] = (await (await folder.getFileHandle(name)).getFile()).size
    return Object.values(sizes)
  })
  expect(files).toEqual([44 + 480_000 * 4, 44 + 480_000 * 4])
})
