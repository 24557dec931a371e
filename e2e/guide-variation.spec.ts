import { heardChain } from '@oleaje/core/project/walk'
import type { Page } from '@playwright/test'
import { project, trackNamed } from './app'
import { expect } from './fixtures'
import { kinds, links } from './hand'
import { walk } from './walk'

const auditions = (page: Page): Promise<boolean> => page.evaluate(() => globalThis.oleaje.auditioned() !== '')
const cards = (page: Page) => page.getByRole('region', { name: 'Try-outs' }).getByRole('article')

walk(
  'shipped-chain',
  8,
  {
    'With **Fog pad** selected, press **Space** to play.': async (hand) => {
      await hand.key('Space')
    },
    'Press **F** and type `fog over`.': async (hand, page) => {
      await hand.key('f')
      await page.getByRole('combobox', { name: 'Search the shelf' }).fill('fog over')
      hand.actions++
      await expect(page.getByRole('option').first()).toContainText('Fog over the water')
    },
    'Press **Down** to hear the chain in time with the song, as loud as the dry sound.': async (
      hand,
      page,
    ) => {
      await hand.key('ArrowDown')
      await expect.poll(() => auditions(page)).toBe(true)
    },
    'Press **Esc** to hear the track as it was. Nothing has been written.': async (hand, page) => {
      await hand.key('Escape')
      await expect.poll(() => auditions(page)).toBe(false)
      await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
    },
    'Press **Enter** to put the chain in place of the track’s own.': async (hand, page) => {
      await hand.key('Enter')
      await expect
        .poll(async () => kinds(await trackNamed(page, 'Fog pad')))
        .toEqual(expect.arrayContaining(['grains', 'reverb']))
    },
    'Press **Ctrl+Z** to take it back.': (hand) => hand.key('Control+z'),
  },
  async (page) => {
    await expect.poll(async () => kinds(await trackNamed(page, 'Fog pad'))).not.toContain('grains')
    await page.keyboard.press('f')
    await page.getByRole('combobox', { name: 'Search the shelf' }).fill('fog over')
    await page.keyboard.press('ArrowDown')
    await expect.poll(() => auditions(page)).toBe(true)
  },
)

walk(
  'morph-on-a-plane',
  11,
  {
    'With **Fog pad** selected, click **Add modulator** and choose **Morph**.': async (hand) => {
      await hand.addModulator('Morph')
    },
    'Click **Store here**.': (hand) => hand.button('Store here'),
    'Click **Filter** in the chart, press **End** on its **Cutoff**, and click **Store here**.': async (
      hand,
      page,
    ) => {
      await hand.node(/^Filter/)
      await page.getByRole('slider', { name: 'Cutoff, Filter' }).focus()
      await hand.key('End')
      await hand.button('Store here')
    },
    'Press **M** on **Y** of the morph and choose **new LFO**.': async (hand, page) => {
      await page.getByRole('slider', { name: /^Y, Morph/ }).focus()
      await hand.key('m')
      await hand.click(page.getByRole('menuitem', { name: 'new LFO' }))
    },
    'Press **Space** to play.': (hand) => hand.key('Space'),
  },
  async (page) => {
    await expect.poll(async () => (await links(page)).some((l) => l.target.param === 'y')).toBe(true)
    await expect(page.getByText('Moves 1 parameter.')).toBeVisible()
    await page.waitForFunction(() => globalThis.oleaje.live().beat > 1)
  },
)

walk(
  'dice-and-try-outs',
  20,
  {
    'With **Fog pad** selected, click **Filter** in the chart, and press **Shift+L** on its **Cutoff**.':
      async (hand, page) => {
        await hand.node(/^Filter/)
        await page.getByRole('slider', { name: 'Cutoff, Filter' }).focus()
        await hand.key('Shift+L')
      },
    'Press **Shift+X** and click **Throw**.': async (hand, page) => {
      await hand.key('Shift+X')
      await hand.button('Throw')
      await expect(page.getByRole('complementary', { name: 'Dice' }).getByRole('status')).toHaveText(
        'Throw 1 of 1',
        { timeout: 20_000 },
      )
    },
    'Click **Older throw** to hear the state before it. Press **Esc**.': async (hand, page) => {
      await hand.button('Older throw')
      await expect(page.getByRole('button', { name: 'Older throw' })).toBeDisabled()
      await hand.key('Escape')
    },
    'Press **Space** to play. Press **Shift+V** and click **Run**.': async (hand, page) => {
      await hand.key('Space')
      await hand.key('Shift+V')
      await hand.button('Run')
      await expect(page.getByRole('region', { name: 'Try-outs' }).getByRole('status')).toHaveText(
        '12 cards',
        { timeout: 120_000 },
      )
    },
    'Click **Throw 1**, then **Throw 2**, to hear them in time with the song.': async (hand, page) => {
      for (const n of [1, 2]) {
        await hand.click(cards(page).nth(n).getByRole('heading'))
        await expect(cards(page).nth(n)).toBeFocused()
      }
      await expect.poll(() => auditions(page)).toBe(true)
    },
    'Click **Parent** on both, and **Breed two**.': async (hand, page) => {
      for (const n of [1, 2]) await hand.click(cards(page).nth(n).getByRole('button', { name: 'Parent' }))
      await hand.button('Breed two')
      await expect(cards(page).last()).toContainText('Throw 1 × Throw 2')
    },
    'Press **Enter** on the last card to make it the state of the track.': async (hand, page) => {
      await cards(page).last().focus()
      await hand.key('Enter')
    },
  },
  async (page) => {
    await expect(page.getByLabel('Chart')).toBeVisible()
    const [filter] = heardChain(await trackNamed(page, 'Fog pad')).nodes
    expect(filter?.params.cutoff).toBe(800)
    expect((await project(page)).locks).toHaveLength(1)
    await page.keyboard.press('Shift+V')
    await expect(cards(page)).toHaveCount(13)
  },
)
