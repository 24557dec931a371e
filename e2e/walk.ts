import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { open } from './app'
import { expect, sharing as test } from './fixtures'
import { Hand } from './hand'

const folder = join(import.meta.dirname, '../docs/guide')

/** The numbered steps of a page of the guide, each as one line. */
export function stepsOf(text: string): string[] {
  return [...text.matchAll(/^\d+\. (.+(?:\n {3}.+)*)/gm)].map((m) => (m[1] ?? '').replace(/\s+/g, ' '))
}

type Steps = Record<string, (hand: Hand, page: Page) => Promise<unknown>>

/**
 * A walk-through of the guide, performed on the demo. Each step is found by its own words, so that page and
 * test cannot differ. Its picture is taken at the end, and written to the guide where OLEAJE_GUIDE is set.
 * @param most actions that it may take: clicks, drags, keys and typed values
 */
export function walk(
  name: string,
  most: number,
  steps: Steps,
  check: (page: Page, hand: Hand) => Promise<unknown>,
): void {
  test(`guide, ${name}: as written, in at most ${most} actions`, async ({ page }) => {
    test.slow()
    const written = stepsOf(readFileSync(join(folder, `${name}.md`), 'utf8'))
    expect(Object.keys(steps)).toEqual(written)
    await open(page)
    const hand = new Hand(page)
    for (const [text, perform] of Object.entries(steps))
      await test.step(text, async () => {
        await perform(hand, page)
      })
    await check(page, hand)
    hand.takesAtMost(most)
    const into = process.env.OLEAJE_GUIDE ? folder : join(import.meta.dirname, '../test-results/guide')
    mkdirSync(into, { recursive: true })
    await page.mouse.move(640, 4)
    await page.screenshot({ path: join(into, `${name}.png`) })
  })
}
