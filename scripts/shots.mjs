/** `npm run shots`: rewrites docs/screenshots/ with the demo playing, and the pictures of docs/guide/. */
import { spawnSync } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { ensureBuilt } from './build.mjs'
import { findChromium, flags } from './chromium.mjs'
import { root, say } from './deps.mjs'
import { serve } from './serve.mjs'

const PORT = 4650
await ensureBuilt()
const folder = join(root, 'docs/screenshots')
mkdirSync(folder, { recursive: true })
const { chromium } = await import('playwright-core')
const server = await serve(PORT, true)
const browser = await chromium.launch({ executablePath: findChromium(), args: flags })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })

async function shot(name) {
  await page.screenshot({ path: join(folder, `${name}.png`) })
  say(`${name}.png`)
}
/** Waits until the song has come to a beat, so that each picture shows the same moment. */
const beat = (b) =>
  page.waitForFunction(
    (at) => {
      const n = globalThis.oleaje.live().beat
      return n >= at && n < at + 1
    },
    b,
    { polling: 20, timeout: 60_000 },
  )

try {
  // files are downloads: nobody is there to choose a folder
  await page.addInitScript(() => {
    Reflect.deleteProperty(window, 'showSaveFilePicker')
    Reflect.deleteProperty(window, 'showOpenFilePicker')
    Reflect.deleteProperty(window, 'showDirectoryPicker')
  })
  await page.goto(`http://127.0.0.1:${PORT}/`)
  await page.waitForFunction(() => globalThis.oleaje?.project())
  await page.keyboard.press('Space')
  await page.waitForFunction(() => globalThis.oleaje.value('peak:track:pad') > 0.001)
  await beat(9)
  await shot('bench-day')
  await page.keyboard.press('n')
  await beat(13)
  await shot('bench-night')
  await page.keyboard.press('n')
  await page.keyboard.press('g')
  await page.keyboard.press('b')
  await page.getByRole('button', { name: 'Link from Slow tide' }).first().click()
  await beat(3)
  await shot('link-in-hand')
  await page.keyboard.press('Escape')
  await page.keyboard.press('k')
  await beat(6)
  await shot('links')
  await page.keyboard.press('t')
  await beat(10)
  await shot('timeline')
  await page.keyboard.press('b')
  await page.getByRole('button', { name: /^Hull bass/ }).click()
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await page.getByRole('tab', { name: 'Scope' }).last().click()
  await beat(11)
  await page.getByRole('button', { name: /^Fog pad/ }).click()
  await page.getByRole('button', { name: /^Reverb/ }).click()
  await page.getByRole('tab', { name: 'Spectrogram' }).last().click()
  await beat(1)
  await shot('reverb')
  await page.keyboard.press('Shift+z')
  await page.waitForTimeout(9000)
  await beat(9)
  await shot('listening')
  await page.keyboard.press('Shift+z')
  /** Adds an effect behind the selected one, by its name. */
  const add = async (name) => {
    await page.keyboard.press('a')
    await page.getByRole('combobox', { name: 'Search' }).fill(name)
    await page
      .getByRole('option', { name: new RegExp(`^${name}`) })
      .first()
      .click()
  }
  /** Types into the first gauge of that name. */
  const type = async (gauge, value) => {
    await page.getByRole('slider', { name: gauge }).first().focus()
    await page.keyboard.press('Enter')
    await page.getByRole('textbox', { name: /^Value of/ }).fill(value)
    await page.keyboard.press('Enter')
  }
  await page.getByRole('tab', { name: 'Spectrum' }).last().click()
  for (const name of ['Fog pad with a drift', 'Galley glitter', 'Hull growl']) {
    await page.keyboard.press('Shift+f')
    await page
      .getByRole('dialog', { name: 'Keep on shelf' })
      .getByRole('textbox', { name: 'Name' })
      .fill(name)
    await page.keyboard.press('Enter')
    await page.getByRole('dialog').waitFor({ state: 'detached' })
  }
  await page.keyboard.press('f')
  await page.getByRole('combobox', { name: 'Search the shelf' }).waitFor()
  await page.keyboard.type('room')
  for (let i = 0; i < 2; i++) await page.keyboard.press('ArrowDown')
  await page.getByText('as loud as the dry sound').waitFor()
  await page.getByText(/^Before/).waitFor()
  await shot('shelf')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.getByLabel('Chart').waitFor()
  await page.keyboard.press('Shift+V')
  await page.getByRole('button', { name: 'Run' }).click()
  await page.getByRole('article').nth(11).waitFor()
  await page.getByText('Computing…').first().waitFor({ state: 'detached', timeout: 60_000 })
  await page.getByRole('article').nth(1).focus()
  await page.waitForTimeout(900)
  await shot('try-outs')
  await page.keyboard.press('Escape')
  await page.keyboard.press('r')
  await page.getByRole('button', { name: /^What/ }).click()
  await page.getByRole('option', { name: /^Stems/ }).click()
  await page.getByRole('button', { name: /^Tail until/ }).click()
  await page.getByRole('option', { name: 'none' }).click()
  await page.getByRole('button', { name: /^Render \d/ }).click()
  await page.getByText(/^Saved \d/).waitFor()
  await shot('render')
  await page.keyboard.press('Shift+M')
  await page.getByRole('button', { name: 'Frequency response' }).click()
  await page.getByRole('switch', { name: /^Dry/ }).click()
  await page.getByRole('group', { name: /^Chart: Magnitude/ }).click({ position: { x: 420, y: 150 } })
  await page.waitForTimeout(3000)
  await shot('lab')
  await page.keyboard.press('b')
  await page.getByRole('button', { name: /^Galley keys/ }).click()
  await add('EQ')
  await page.getByRole('button', { name: 'Store', exact: true }).click()
  for (const [band, frequency, gain] of [
    [1, '140', '-9'],
    [2, '620', '11'],
    [3, '2.4k', '-12'],
    [4, '7k', '8'],
  ]) {
    await page.getByRole('button', { name: `band ${band}`, exact: true }).click()
    await type(/^Frequency, EQ/, frequency)
    await type(/^Gain, EQ/, gain)
  }
  await page.getByRole('button', { name: 'Store', exact: true }).click()
  await type(/^Travel, EQ/, '80%')
  await beat(3)
  await shot('eq-poses')
  await add('Vowel')
  await beat(6)
  await shot('vowel')
  await page.getByRole('button', { name: /^Fog pad/ }).click()
  await page.keyboard.press('p')
  await page.getByRole('button', { name: /ways of time/ }).click()
  await page.waitForFunction(() => globalThis.oleaje.project()?.name === 'Night Ferry: ways of time')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  /** Shows one effect of a track, which is heard alone. */
  const show = async (track, node) => {
    if ((await page.getByLabel(`Name of track ${track}`).count()) === 0)
      await page
        .getByRole('button', { name: new RegExp(`^${track}`) })
        .first()
        .click()
    if (
      (await page.evaluate(
        (id) => globalThis.oleaje.project().tracks.find((t) => t.name.startsWith(id))?.params.mute ?? 0,
        track,
      )) > 0.5
    )
      await page.getByRole('button', { name: `Mute ${track}` }).click()
    await page.locator(`[data-node="${node}"]`).click()
  }
  await show('Shimmer', 'shimmer-loop')
  await beat(6)
  await shot('loop-back')
  await page.keyboard.press('p')
  await page.getByRole('button', { name: /ways of playing/ }).click()
  await page.waitForFunction(() => globalThis.oleaje.project()?.name === 'Night Ferry: ways of playing')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  /** Chooses a track and has it heard. */
  const hear = async (track) => {
    if ((await page.getByLabel(`Name of track ${track}`).count()) === 0)
      await page.getByRole('button', { name: track, exact: true }).click()
    if (
      (await page.evaluate(
        (name) => globalThis.oleaje.project().tracks.find((t) => t.name === name)?.params.mute ?? 0,
        track,
      )) > 0.5
    )
      await page.getByRole('button', { name: `Mute ${track}` }).click()
  }
  await hear('Snare by itself')
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await beat(5)
  await shot('kit')
  await hear('Glide of three seconds')
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await beat(12)
  await shot('played-sound')
  await hear('Arpeggio on a band')
  await page.keyboard.press('t')
  for (const track of ['Snare by itself', 'Melody on a comb'])
    await page.getByRole('button', { name: `Notes of ${track}`, exact: true }).click()
  await beat(5)
  await shot('notes')
  await page.keyboard.press('b')
  await page.keyboard.press('p')
  await page
    .getByRole('group', { name: 'Examples' })
    .getByRole('button', { name: 'Night Ferry', exact: true })
    .click()
  await page.waitForFunction(() => globalThis.oleaje.project()?.name === 'Night Ferry')
  await page.getByRole('button', { name: 'Line in', exact: true }).click()
  await page.getByRole('button', { name: 'Turn input on' }).click()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await page.waitForFunction(() => globalThis.oleaje.value('peak:source:line') > 0.05, null, { polling: 10 })
  await shot('live-input')
  await page.keyboard.press('p')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Take Rope guitar' }).waitFor()
  await shot('empty')
  // the pictures of the guide are those of the tests that perform it
  const walks = ['test', '-c', 'e2e/playwright.config.ts', 'guide']
  const { status } = spawnSync(join(root, 'node_modules/.bin/playwright'), walks, {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, OLEAJE_URL: `http://127.0.0.1:${PORT}`, OLEAJE_GUIDE: '1' },
  })
  process.exitCode = status ?? 1
} finally {
  await browser.close()
  server.kill()
}
