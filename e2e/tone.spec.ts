import type { Page } from '@playwright/test'
import { liveAgainstRender, menu, open, project, wavOf } from './app'
import { expect, sharing as test } from './fixtures'

async function add(page: Page, name: string): Promise<void> {
  await page.keyboard.press('a')
  await page.getByRole('combobox', { name: 'Search' }).fill(name)
  await page
    .getByRole('option', { name: new RegExp(`^${name}`) })
    .first()
    .click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

async function type(page: Page, gauge: RegExp, value: string): Promise<void> {
  await page.getByRole('slider', { name: gauge }).first().focus()
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: /^Value of/ }).fill(value)
  await page.keyboard.press('Enter')
}

test('growl: an EQ whose poses one macro travels through, its order against the distortion swapped by one key while it plays', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await page.getByRole('button', { name: /^Hull bass/ }).click()
  await add(page, 'EQ')
  const take = page.getByRole('button', { name: 'Store', exact: true })
  for (const [frequency, gain] of [
    ['300', '12'],
    ['700', '-8'],
    ['1.4k', '14'],
    ['3k', '9'],
  ] as const) {
    await page.getByRole('button', { name: 'band 2', exact: true }).click()
    await type(page, /^Frequency of band 2, EQ|^Frequency, EQ/, frequency)
    await type(page, /^Gain of band 2, EQ|^Gain, EQ/, gain)
    // with two poses the gauges are no longer what is heard, so these are set on the picture's strip
    await take.click()
  }
  await expect
    .poll(
      async () =>
        (
          (await project(page)).tracks[3]!.a.nodes.find((n) => n.kind === 'effect' && n.type === 'eq') as {
            data?: { poses: unknown[] }
          }
        ).data?.poses.length,
    )
    .toBe(4)
  await page
    .getByRole('region', { name: 'Macros and modulators' })
    .getByRole('button', { name: 'Add', exact: true })
    .first()
    .click()
  await page
    .getByRole('button', { name: /^Link Macro.*/ })
    .last()
    .click()
  await page.getByRole('slider', { name: 'Travel, EQ' }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await add(page, 'Drive')
  await page.keyboard.press('Space')
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:bass')))
    .toBeGreaterThan(0.001)
  const order = async (): Promise<string> =>
    (await project(page)).tracks[3]!.a.nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind)).join(' ')
  const before = await order()
  await page.keyboard.press('Control+Shift+ArrowLeft')
  expect(await order()).not.toBe(before)
  expect(await order()).toContain('drive eq')
  await expect(page.getByRole('alert')).toHaveCount(0)
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})

test('split distortion: three bands, each with a distortion of its own, made by mouse and heard', async ({
  page,
}) => {
  await open(page)
  await page.getByRole('button', { name: /^Rope guitar/ }).click()
  await add(page, 'Split')
  await page.getByRole('button', { name: 'Type' }).click()
  await page.getByRole('option', { name: 'bands' }).click()
  await page.getByRole('button', { name: 'Add branch' }).click()
  for (const [branch, effect] of [
    ['low', 'Drive'],
    ['mid', 'Folder'],
    ['high', 'Crush'],
  ] as const) {
    await page.getByRole('button', { name: `Add an effect after the start of ${branch}` }).click()
    await page
      .getByRole('option', { name: new RegExp(`^${effect}`) })
      .first()
      .click()
  }
  const split = (await project(page)).tracks[1]!.a.nodes.find((n) => n.kind === 'split')
  expect(
    split?.kind === 'split' &&
      split.branches.map((b) => b.nodes.map((n) => (n.kind === 'effect' ? n.type : ''))).flat(),
  ).toEqual(['drive', 'folder', 'crush'])
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})

/** Amplitude in dB and phase in degrees of what a pulse of the project becomes, at a frequency. */
async function responseAt(
  page: Page,
  frequencies: readonly number[],
): Promise<{ db: number; degrees: number }[]> {
  const h = (await page.evaluate(() => globalThis.oleaje.capture(0, 16_384))).left
  return frequencies.map((hz) => {
    let re = 0
    let im = 0
    h.forEach((v, i) => {
      re += v * Math.cos((2 * Math.PI * hz * i) / 48_000)
      im -= v * Math.sin((2 * Math.PI * hz * i) / 48_000)
    })
    // the pulse has the tone's own level, −12 dBFS
    return { db: 20 * Math.log10(Math.hypot(re, im)) + 12, degrees: (Math.atan2(im, re) * 180) / Math.PI }
  })
}

async function newWithTone(page: Page): Promise<void> {
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('dialog', { name: 'New track' }).getByRole('button', { name: 'Test signals' }).click()
}

test('from first principles: an all-pass beside the dry sound is a low-pass, upside down a high-pass, with a gain on it a shelf, in the app’s own sound', async ({
  page,
}) => {
  await open(page)
  await newWithTone(page)
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  const wave = page.getByRole('button', { name: /^Wave, / })
  await wave.focus()
  for (let i = 0; i < 7; i++) await page.keyboard.press('ArrowRight')
  await expect(wave).toHaveText(/single pulse/)
  await add(page, 'All-pass')
  await type(page, /^Frequency, All-pass/, '800')
  await menu(page, /^Actions for/, 'Split around', '[data-region=effect]')
  // both branches at 0 dB, so that theory needs no factor
  const levels = page.getByRole('slider', { name: /^Level, / })
  await page.getByRole('button', { name: /^Split into 2 branches/ }).click()
  const names = await levels.evaluateAll((all) => all.map((e) => e.getAttribute('aria-label') ?? ''))
  for (const name of names.filter((n) => !/Tone/.test(n)).slice(0, 2))
    await type(page, new RegExp(`^${name}$`), '0')
  const places = [100, 400, 800, 2000, 9000]
  const allPass = (hz: number): { re: number; im: number } => {
    const t = Math.tan((Math.PI * hz) / 48_000) / Math.tan((Math.PI * 800) / 48_000)
    return { re: (1 - t * t) / (1 + t * t), im: (-2 * t) / (1 + t * t) }
  }
  const agree = async (through: number, dry: number): Promise<void> => {
    // structure and values settle within some blocks; the capture starts the song anew
    const found = await responseAt(page, places)
    found.forEach((r, i) => {
      const a = allPass(places[i]!)
      const [re, im] = [through * a.re + dry, through * a.im]
      expect(Math.abs(r.db - 20 * Math.log10(Math.hypot(re, im))), `${places[i]} Hz`).toBeLessThan(0.05)
      const turn = r.degrees - (Math.atan2(im, re) * 180) / Math.PI
      expect(Math.abs(((turn + 540) % 360) - 180), `${places[i]} Hz`).toBeLessThan(0.5)
    })
  }
  await agree(1, 1)
  await page.getByTitle('Inverts the polarity').first().click()
  await agree(-1, 1)
  await page.getByTitle('Inverts the polarity').first().click()
  // a gain on the all-pass, as a factor through zero
  await page.getByRole('button', { name: /^All-pass, on/ }).click()
  await add(page, 'Gain')
  await page.getByRole('radiogroup', { name: 'Mode, Gain' }).getByRole('radio', { name: 'factor' }).click()
  for (const factor of [0.5, 0, -0.5]) {
    await type(page, /^Factor, Gain/, String(factor))
    await agree(factor, 1)
  }
})

test('speaking drums: five vowels of one’s own under one macro, from the menu of presets and the own list', async ({
  page,
}) => {
  await open(page)
  await page
    .getByRole('button', { name: /^Deck kit/ })
    .first()
    .click()
  await add(page, 'Vowel')
  await page.getByRole('button', { name: 'Own vowels' }).click()
  const panel = page.getByRole('region', { name: 'Selected effect' })
  for (let i = 0; i < 5; i++) {
    await panel.getByRole('button', { name: 'Add', exact: true }).click()
    await panel.getByRole('textbox', { name: 'frequency of peak 1' }).fill(String(300 + 110 * i))
    await page.keyboard.press('Tab')
  }
  const vowels = async (): Promise<{ peaks: { frequency: number }[] }[]> =>
    (
      (await project(page)).tracks[0]!.a.nodes.find(
        (n) => n.kind === 'effect' && n.type === 'vowel',
      ) as unknown as {
        data: { vowels: { peaks: { frequency: number }[] }[] }
      }
    ).data.vowels
  await expect
    .poll(async () => (await vowels()).map((v) => v.peaks[0]!.frequency))
    .toEqual([300, 410, 520, 630, 740])
  await page
    .getByRole('region', { name: 'Macros and modulators' })
    .getByRole('button', { name: 'Add', exact: true })
    .first()
    .click()
  await page
    .getByRole('button', { name: /^Link Macro.*/ })
    .last()
    .click()
  await page.getByRole('slider', { name: 'Position, Vowel' }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await type(page, /^Dry, Vowel/, '30')
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})

test('what is heard alone is said, is not saved, and never reaches a render', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  const before = JSON.stringify(await project(page))
  const render = async (): Promise<Float32Array> => {
    await page.getByRole('link', { name: 'Render', exact: true }).click()
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Render to WAV' }).click(),
    ])
    await page.keyboard.press('Escape')
    await expect(page.getByLabel('Chart')).toBeVisible()
    return (await wavOf(download)).channels[0]!
  }
  const whole = await render()
  for (const [name, says] of [
    ['Wet', /the wet signal of Filter/],
    ['Difference', /the difference of Filter/],
    ['Up to here', /the chain up to Filter/],
  ] as const) {
    await page.getByRole('button', { name, exact: true }).click()
    await expect(page.getByRole('status').filter({ hasText: says })).toBeVisible()
  }
  // Space would be that of the button that has just been pressed
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
  expect(JSON.stringify(await project(page))).toBe(before)
  const heard = await render()
  expect(heard.length).toBe(whole.length)
  expect(heard.every((v, i) => v === whole[i])).toBe(true)
  await page.keyboard.press('Shift+H')
  await expect(page.getByText('Renders are not affected')).toHaveCount(0)
})

test('a new snare from a stem: compressor, drive and a comb shaken by an LFO, each step matched in level against the dry sound', async ({
  page,
}) => {
  test.slow()
  await open(page)
  await menu(page, 'Project', 'Projects…')
  await page.getByRole('button', { name: 'Night Ferry: ways of colouring' }).click()
  await expect.poll(async () => (await project(page)).name).toBe('Night Ferry: ways of colouring')
  await page.getByRole('button', { name: /^New snare/ }).click()
  for (const track of ['Speaking drums']) await page.getByRole('button', { name: `Mute ${track}` }).click()
  await page.getByRole('button', { name: 'Mute New snare' }).click()
  // begin anew on the stem
  for (const name of ['Compressor', 'Drive', 'Comb']) {
    await page
      .getByRole('button', { name: new RegExp(`^${name}`) })
      .first()
      .click()
    await page.keyboard.press('Delete')
  }
  await page.keyboard.press('Space')
  const matched = async (): Promise<number> =>
    Number(
      ((await page.getByTestId('matched').textContent()) ?? '').replace('−', '-').replace(/[^\d.-]/g, ''),
    )
  for (const [name, preset] of [
    ['Compressor', 'Drum room'],
    ['Drive', 'Engine room'],
    ['Comb', 'Hollow reed'],
  ] as const) {
    await add(page, name)
    await page.getByRole('button', { name: 'Presets', exact: true }).click()
    await page.getByRole('menuitem', { name: preset, exact: true }).click()
    await expect(page.getByRole('button', { name: new RegExp(`^${name}, on`) })).toBeVisible()
    // loudness is taken over some seconds of what is heard; dry is then brought to the same
    const blocks = (): Promise<number> => page.evaluate(() => globalThis.oleaje.live().blocks)
    const from = await blocks()
    await expect.poll(blocks, { timeout: 30_000 }).toBeGreaterThan(from + 2200)
    await page.keyboard.press('v')
    await expect.poll(matched, { timeout: 30_000 }).not.toBe(0)
    await page.keyboard.press('v')
  }
  await page.getByRole('button', { name: 'Add modulator' }).click()
  await page.getByRole('menuitem', { name: 'LFO' }).click()
  await type(page, /^Rate, LFO/, '23.7')
  await page
    .getByRole('button', { name: /^Link LFO.*/ })
    .last()
    .click()
  await page.getByRole('slider', { name: 'Frequency, Comb' }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})
