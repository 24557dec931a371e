import type { Page } from '@playwright/test'
import { open } from './app'
import { expect, sharing as test } from './fixtures'
import { Hand, begin } from './hand'

/** What scrolls sideways, or would be cut off at the side of the window. */
const sideways = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    [document.documentElement, ...Array.from(document.querySelectorAll<HTMLElement>('body *'))].flatMap(
      (el) => {
        const { overflowX, scrollbarWidth } = getComputedStyle(el)
        const scrolls =
          (/auto|scroll/.test(overflowX) && scrollbarWidth !== 'none') || el === document.documentElement
        return scrolls && el.clientWidth > 0 && el.scrollWidth > el.clientWidth + 1
          ? [
              `${el.tagName} ${el.getAttribute('aria-label') ?? el.className}: ${el.scrollWidth} in ${el.clientWidth}`,
            ]
          : []
      },
    ),
  )

/** Panels with more than one row of three buttons or more; choices and lists are no such rows. */
const crowded = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    Array.from(
      document.querySelectorAll<HTMLElement>(
        'header, [data-modulator], [data-track], [data-region=effect], footer > *, [aria-label=Timeline]',
      ),
    ).flatMap((panel) => {
      const rows = new Set<number>()
      for (const box of [panel, ...Array.from(panel.querySelectorAll<HTMLElement>('*'))]) {
        if (box.closest('ul, table, [role=table], [role=listbox]')) continue
        if (panel.matches('[data-region=effect], [aria-label=Timeline]') && box.closest('header')) continue
        const buttons = Array.from(box.querySelectorAll<HTMLElement>('.small-button, .plain-button')).filter(
          (b) => b.parentElement === box || b.parentElement?.parentElement === box,
        )
        const byLine = new Map<number, number>()
        for (const b of buttons) {
          const { top, height } = b.getBoundingClientRect()
          if (height === 0) continue
          const line = Math.round((top + height / 2) / 8)
          byLine.set(line, (byLine.get(line) ?? 0) + 1)
        }
        for (const [line, n] of byLine) if (n >= 3) rows.add(line)
      }
      return rows.size > 1
        ? [`${panel.tagName} ${panel.getAttribute('aria-label') ?? panel.className}: ${rows.size} rows`]
        : []
    }),
  )

/** Names of views and buttons of the header that need a second line. */
const brokenNames = (page: Page): Promise<string[]> =>
  page
    .locator('header nav a, header .plain-button')
    .evaluateAll((all) => all.filter((el) => el.clientHeight > 36).map((el) => `broken: ${el.textContent}`))

/** Px by which the controls of the selected effect are taller than their room. */
const overflowing = (page: Page): Promise<number> =>
  page
    .locator('[data-region=effect] .gauges')
    .first()
    .evaluate((el) => {
      let box: HTMLElement | null = el as HTMLElement
      while (box && !/auto|scroll/.test(getComputedStyle(box).overflowY)) box = box.parentElement
      return box ? box.scrollHeight - box.clientHeight : 0
    })

/** The short form looks at the ends and at the usual width. */
const widths = process.env.OLEAJE_LONG ? [1100, 1280, 1600, 1920, 2560] : [1100, 1280, 2560]
for (const width of widths)
  test(`nothing scrolls sideways and no panel has two rows of buttons at ${width} px`, async ({ page }) => {
    await page.setViewportSize({ width, height: Math.round(width * 0.625) })
    await open(page)
    const hand = new Hand(page)
    const wrong: string[] = []
    const look = async (what: string): Promise<void> => {
      await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))))
      const found = [...(await sideways(page)), ...(await crowded(page)), ...(await brokenNames(page))]
      wrong.push(...found.map((w) => `${what}: ${w}`))
    }
    await look('Bench')
    for (const effect of ['taps', 'stutter', 'eq', 'vowel', 'resonators', 'split', 'convolver']) {
      await hand.add(effect)
      await look(effect)
    }
    for (const kind of ['LFO', 'Notes', 'Curve', 'Steps', 'Controller']) {
      await hand.addModulator(kind)
      await look(kind)
    }
    for (const track of ['Deck kit', 'Line in', 'Mix']) {
      await page.getByRole('button', { name: track, exact: true }).first().click()
      const source = page.getByRole('button', { name: 'Source', exact: true })
      if (await source.count()) await source.first().click()
      await look(track)
    }
    await hand.key('t')
    await look('Timeline')
    await hand.button('Notes of Deck kit')
    await look('Timeline with notes')
    await hand.key('k')
    await look('Links')
    expect(wrong).toEqual([])
  })

test('Stutter, Delay and Reverb show their main controls at 1280 × 800 without a scroll bar, and an LFO card its own', async ({
  page,
}) => {
  const hand = await begin(page, 'Deck kit')
  for (const effect of ['delay', 'reverb', 'stutter']) {
    await hand.add(effect)
    expect(await page.locator('[data-region=effect] .gauges [data-gauge]').count()).toBeGreaterThanOrEqual(6)
    expect(await overflowing(page), effect).toBeLessThanOrEqual(0)
  }
  await hand.addModulator('LFO')
  const card = page.locator('[data-modulator]').last()
  await expect(card.locator('[data-gauge]').first()).toBeVisible()
  const scrolls = await card.evaluate((el) => {
    let box: HTMLElement | null = el as HTMLElement
    while (box && !/auto|scroll/.test(getComputedStyle(box).overflowY)) box = box.parentElement
    return box ? box.scrollHeight - box.clientHeight : 0
  })
  expect(scrolls).toBeLessThanOrEqual(0)
})
