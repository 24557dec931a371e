import { menu, project } from './app'
import { expect } from './fixtures'
import type { Page } from '@playwright/test'
import { walk } from './walk'

const lab = (page: Page) => page.getByRole('region', { name: 'Lab', exact: true })
const chart = (page: Page, title: string) =>
  lab(page).getByRole('group', { name: new RegExp(`^Chart: ${title}`) })
const values = (page: Page) => lab(page).getByRole('table', { name: 'Values at the cursors' })

walk(
  'chain-under-measurement',
  16,
  {
    'With **Fog pad** selected, press **Shift+M** and click **Frequency response**.': async (hand, page) => {
      await hand.key('Shift+M')
      await hand.button('Frequency response')
      await expect(chart(page, 'Magnitude')).toBeVisible()
    },
    'Click in the chart to read a frequency. Hold **Shift** and click for a second one.': async (
      hand,
      page,
    ) => {
      await hand.click(chart(page, 'Magnitude'), { position: { x: 300, y: 150 } })
      await hand.click(chart(page, 'Magnitude'), { position: { x: 520, y: 150 }, modifiers: ['Shift'] })
      await expect(values(page)).toContainText(/Cursor 1, [\d.]+ Hz.*Cursor 2, [\d.]+ Hz/)
    },
    'Click **Keep** to keep this measurement with the project.': async (hand, page) => {
      await hand.button('Keep')
      await expect.poll(async () => (await project(page)).measurements?.length).toBe(1)
    },
    'Press **B**, click **Filter** in the chart, and press **X** to turn it off.': async (hand) => {
      await hand.key('b')
      await hand.node(/^Filter/)
      await hand.key('x')
    },
    'Press **Shift+M** and click **Repeat** beside the kept measurement.': async (hand, page) => {
      await hand.key('Shift+M')
      await hand.button(/^Repeat Fog pad/)
      await expect(values(page).getByRole('row')).toHaveCount(3)
    },
    'Click **Difference** to see how far the two lie apart.': async (hand, page) => {
      await hand.button('Difference')
      await expect(values(page).getByRole('row')).toHaveCount(2)
    },
    'Press **B**. In the menu of **Fog pad**, choose **Export for web pages…** and click **Export**.': async (
      hand,
      page,
    ) => {
      await hand.key('b')
      await menu(page, 'Actions for Fog pad', 'Export for web pages…', '[data-track=pad]')
      hand.actions += 2
      await Promise.all([page.waitForEvent('download', { timeout: 60_000 }), hand.button('Export')])
    },
  },
  async (page) => {
    await expect(page.getByRole('dialog').getByRole('status')).toContainText('Saved fog-pad.zip')
    await page.keyboard.press('Escape')
    await page.keyboard.press('Shift+M')
    await expect(chart(page, 'Magnitude')).toBeVisible()
  },
)
