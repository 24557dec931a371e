import { type Page, expect, test } from '@playwright/test'
import { liveAgainstRender, open, project } from './app'

async function add(page: Page, name: string): Promise<void> {
  await page.keyboard.press('a')
  await page.getByRole('combobox', { name: 'Search' }).fill(name)
  await page.getByRole('option', { name: new RegExp(`^${name}`) }).first().click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

async function type(page: Page, gauge: RegExp, value: string): Promise<void> {
  await page.getByRole('slider', { name: gauge }).first().focus()
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: /^Value of/ }).fill(value)
  await page.keyboard.press('Enter')
}

test('growl: an EQ whose poses one macro travels through, its order against the distortion swapped by one key while it plays', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: /^Hull bass/ }).click()
  await add(page, 'EQ')
  const take = page.getByRole('button', { name: 'Take', exact: true })
  for (const [frequency, gain] of [['300', '12'], ['700', '-8'], ['1.4k', '14'], ['3k', '9']] as const) {
    await page.getByRole('button', { name: 'band 2', exact: true }).click()
    await type(page, /^Frequency of band 2, EQ|^Frequency, EQ/, frequency)
    await type(page, /^Gain of band 2, EQ|^Gain, EQ/, gain)
    // with two poses the gauges are no longer what is heard, so these are set on the picture's strip
    await take.click()
  }
  await expect.poll(async () => ((await project(page)).tracks[3]!.a.nodes.find((n) => n.kind === 'effect' && n.type === 'eq') as { data?: { poses: unknown[] } }).data?.poses.length).toBe(4)
  await page.getByRole('region', { name: 'Macros and modulators' }).getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('button', { name: /^Take Macro.* in hand/ }).last().click()
  await page.getByRole('slider', { name: 'Travel, EQ' }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await add(page, 'Drive')
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:bass'))).toBeGreaterThan(0.001)
  const order = async (): Promise<string> => (await project(page)).tracks[3]!.a.nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind)).join(' ')
  const before = await order()
  await page.keyboard.press('Control+Shift+ArrowLeft')
  expect(await order()).not.toBe(before)
  expect(await order()).toContain('drive eq')
  await expect(page.getByRole('alert')).toHaveCount(0)
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})

test('split distortion: three bands, each with a distortion of its own, made by mouse and heard', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: /^Rope guitar/ }).click()
  await add(page, 'Split')
  await page.getByLabel('Kind').selectOption('bands')
  await page.getByRole('button', { name: 'Add branch' }).click()
  for (const [branch, effect] of [['first', 'Drive'], ['second', 'Folder'], ['branch 3', 'Crush']] as const) {
    await page.getByRole('button', { name: `Add an effect after the start of ${branch}` }).click()
    await page.getByRole('option', { name: new RegExp(`^${effect}`) }).first().click()
  }
  const split = (await project(page)).tracks[1]!.a.nodes.find((n) => n.kind === 'split')
  expect(split?.kind === 'split' && split.branches.map((b) => b.nodes.map((n) => (n.kind === 'effect' ? n.type : ''))).flat()).toEqual(['drive', 'folder', 'crush'])
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.05)
  expect(different).toBe(0)
})
