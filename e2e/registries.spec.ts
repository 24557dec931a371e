import { build } from 'esbuild'
import { join } from 'node:path'
import { menu, open, project, ready, wavOf } from './app'
import { expect, test } from './fixtures'
import { Hand } from './hand'
import { staticHost } from './static-host'

/** The made-up parts as one script. */
async function partsScript(): Promise<string> {
  const { outputFiles } = await build({
    entryPoints: [join(import.meta.dirname, 'parts/index.ts')],
    bundle: true,
    write: false,
    format: 'iife',
    target: 'es2022',
  })
  return outputFiles[0]!.text
}

test('a made-up source, effect, modulator and kind of node are added, edited, saved, reloaded, rendered and removed through the page', async ({
  browser,
}) => {
  const script = await partsScript()
  // before the page, its worklet and its workers start
  const host = await staticHost(join(import.meta.dirname, '../.output/public'), (path) =>
    /_nuxt\/(processor|heavy)-/.test(path) ? `${script}\n` : '',
  )
  const context = await browser.newContext({
    baseURL: host.url,
    serviceWorkers: 'block',
    viewport: { width: 1280, height: 800 },
  })
  const page = await context.newPage()
  await page.addInitScript({ content: script })
  await open(page)
  const hand = new Hand(page)
  const find = async (what: string): Promise<void> => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: 'Search' }).waitFor()
    await page.keyboard.type(what)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
  await find('New project')
  await expect.poll(async () => (await project(page)).name).toBe('Untitled')

  // add a track with the source, then the effect, the modulator and the container
  await page.getByRole('button', { name: 'Foghorn', exact: true }).click()
  await expect.poll(async () => (await project(page)).tracks[0]?.source?.type).toBe('foghorn')
  await hand.add('Bollard')
  await hand.addModulator('Swell')
  const track = async () => (await project(page)).tracks[0]!
  await expect.poll(async () => (await track()).modulators.map((m) => m.type)).toEqual(['swell'])
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Bollard/ })
    .click()
  await menu(page, /^Actions for/, 'Airlock', '[data-region=effect]')
  await expect.poll(async () => (await track()).a.nodes.map((n) => n.kind)).toEqual(['airlock'])

  // edited: each has its gauges
  await hand.value('Wet', '50 %')
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Bollard/ })
    .click()
  await hand.value('Share', '20 %')
  const edited = await project(page)
  expect(edited.tracks[0]!.a.nodes).toMatchObject([
    { kind: 'airlock', params: { wet: 0.5 }, nodes: [{ type: 'bollard', params: { share: 0.2 } }] },
  ])

  // it sounds in the worklet as it is rendered in the worker
  const live = await page.evaluate(() => globalThis.oleaje.capture(0, 24_000))
  const at = live.latency
  const level = (x: readonly number[]): number =>
    Math.sqrt((2 * x.reduce((sum, v) => sum + v * v, 0)) / x.length)
  const horn = 10 ** (-12 / 20)
  // half dry, half a fifth; half dry, half a third
  expect(level(live.left.slice(at + 2400))).toBeCloseTo(horn * 0.6, 2)
  expect(level(live.right.slice(at + 2400))).toBeCloseTo(horn * (0.5 + 0.5 / 3), 2)

  // saved and reloaded
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.reload()
  await ready(page)
  expect(await project(page)).toEqual(edited)

  // rendered
  await page.keyboard.press('r')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: /Render to WAV/ }).click(),
  ])
  const wav = await wavOf(download)
  const one = Array.from(wav.channels[0]!.subarray(2400, 24_000))
  expect(level(one)).toBeCloseTo(horn * 0.6, 2)
  await page.keyboard.press('Escape')

  // removed
  await page.getByLabel('Chart').getByRole('button', { name: 'Airlock, on' }).focus()
  await page.keyboard.press('Enter')
  await menu(page, /^Actions for/, 'Unwrap', '[data-region=effect]')
  await expect.poll(async () => (await track()).a.nodes.map((n) => n.kind)).toEqual(['effect'])
  await page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Bollard/ })
    .click()
  await page.keyboard.press('Delete')
  await page.locator('[data-modulator] button').first().focus()
  await page.keyboard.press('Delete')
  await expect
    .poll(async () => [(await track()).a.nodes.length, (await track()).modulators.length])
    .toEqual([0, 0])
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(() => project(page)).toEqual(edited)

  // where the parts are not known, what is known plays and all is kept
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await context.close()
  await host.end()
})
