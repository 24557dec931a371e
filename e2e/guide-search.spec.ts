import type { Page } from '@playwright/test'
import { project } from './app'
import { expect } from './fixtures'
import { walk } from './walk'

const panel = (page: Page) => page.getByRole('complementary', { name: 'What matters' })
const match = (page: Page) => page.getByRole('region', { name: 'Match' })
const cards = (page: Page) => page.getByRole('region', { name: 'Try-outs' }).getByRole('article')

walk(
  'what-matters',
  14,
  {
    'With **Fog pad** selected, press **A**, choose **Shaper**, and set **Wet** to 0 %.': async (hand) => {
      await hand.add('shaper')
      await hand.value('Wet', '0')
    },
    'Press **Shift+W** and click **Measure**.': async (hand, page) => {
      await hand.key('Shift+W')
      await hand.click(panel(page).getByRole('button', { name: 'Measure' }))
    },
    'Read the list: the part at the top changes the sound most.': async (_, page) => {
      await expect(panel(page).getByRole('status').first()).toHaveText(/\d+ parts, [1-9]\d* idle/, {
        timeout: 60_000,
      })
      await expect(panel(page).getByRole('row').first()).toContainText(/\d dB/)
    },
    'Click **Remove idle…** to see how far the sound would change without the idle parts.': async (
      hand,
      page,
    ) => {
      await hand.button('Remove idle…')
      await expect(panel(page)).toContainText(/Without \d+ idle: 0\.\d+ dB different/)
    },
    'Click **Remove**.': async (hand, page) => {
      await hand.click(panel(page).getByRole('button', { name: 'Remove', exact: true }))
      await expect(panel(page).getByRole('status').first()).toHaveText(/\d+ parts, 0 idle/, {
        timeout: 60_000,
      })
    },
    'Press **K** and click **Effect on sound** to sort the links by what they do.': async (hand) => {
      await hand.key('k')
      await hand.button('Effect on sound')
    },
  },
  async (page) => {
    await expect(page.getByRole('table', { name: 'All links' })).toContainText(/\d\.\d dB/)
    await page.keyboard.press('b')
    await expect(page.getByLabel('Chart')).toBeVisible()
  },
)

walk(
  'towards-a-sound',
  14,
  {
    'Select **Rope guitar**, press **Shift+V** and click **Match…**.': async (hand, page) => {
      await hand.click(page.getByRole('button', { name: 'Rope guitar', exact: true }).first())
      await hand.key('Shift+V')
      await hand.button('Match…')
    },
    'Choose **Galley keys** as the reference, and set **Time** to 8 s.': async (hand, page) => {
      await hand.choose('Reference', 'Track: Galley keys')
      const time = match(page).getByRole('textbox', { name: 'Time' })
      await time.fill('8')
      await time.press('Enter')
      hand.actions += 1
    },
    'Click **Search**, and watch the distance fall.': async (hand, page) => {
      await hand.button('Search')
      await expect(match(page).getByRole('status')).toHaveText(/^\d+ tries: /, { timeout: 60_000 })
      await expect(match(page).getByRole('button', { name: 'Search' })).toBeVisible({ timeout: 60_000 })
    },
    'When the search has ended, click a card to hear it.': async (hand, page) => {
      await expect(cards(page).nth(1)).toContainText(/Match 1, \d+\.\d dB away/)
      await hand.click(cards(page).nth(1))
      await expect.poll(() => page.evaluate(() => globalThis.oleaje.auditioned())).not.toBe('')
    },
    'Click **Keep as snapshots** to morph between the best ones later.': async (hand, page) => {
      await hand.button('Keep as snapshots')
      await expect
        .poll(async () => (await project(page)).tracks.find((t) => t.id === 'guitar')?.snapshots.length)
        .toBeGreaterThan(0)
    },
    'Press **Enter** on the first match to apply it.': async (hand, page) => {
      await cards(page).nth(1).focus()
      await hand.key('Enter')
    },
  },
  async (page) => {
    await expect(page.getByLabel('Chart')).toBeVisible()
    await page.keyboard.press('Shift+V')
    await expect(match(page).getByRole('button', { name: 'Search' })).toBeVisible()
    await expect(cards(page).nth(1)).toContainText('LUFS', { timeout: 30_000 })
    // the picture is of all of them
    await expect(cards(page).filter({ hasNotText: 'LUFS' })).toHaveCount(0, { timeout: 60_000 })
  },
)
