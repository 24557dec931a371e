import type { Browser } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'

/** Previews that are timed. */
const ROUNDS = 20

/**
 * Previews on the Shelf of the real app while the demo plays: ms from the key to the first block in which the
 * engine plays the preset, median and largest. Each is of another shipped chain; the preview before has
 * ended.
 */
export async function auditionInApp(
  browser: Browser,
): Promise<{ median: number; largest: number; rounds: number }> {
  const server = await serve(4697, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto('http://127.0.0.1:4697/')
    await page.waitForFunction(() =>
      (globalThis as unknown as { oleaje?: { project(): unknown } }).oleaje?.project(),
    )
    await page.keyboard.press('Space')
    await page.waitForFunction(
      () => (globalThis as unknown as { oleaje: { live(): { beat: number } } }).oleaje.live().beat > 1,
    )
    await page.keyboard.press('f')
    await page.getByRole('option').first().waitFor()
    const times: number[] = []
    // the first one is of code that has not run yet
    for (let i = 0; i <= ROUNDS; i++) {
      const ms = await page.evaluate(async () => {
        const { oleaje } = globalThis as unknown as { oleaje: { places(): number } }
        const field = document.querySelector('[role=combobox]')
        const before = oleaje.places()
        const began = performance.now()
        field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }))
        // new effects get places for their live values when the engine has begun to play them
        while (oleaje.places() <= before && performance.now() - began < 5000)
          await new Promise((resolve) => setTimeout(resolve, 2))
        const took = performance.now() - began
        field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
        return took
      })
      if (i > 0) times.push(ms)
      // the engine is back at the document, and its tails have faded, after some 250 blocks
      await page.evaluate(async () => {
        const { oleaje } = globalThis as unknown as { oleaje: { live(): { blocks: number } } }
        const until = oleaje.live().blocks + 250
        while (oleaje.live().blocks < until) await new Promise((resolve) => setTimeout(resolve, 20))
      })
    }
    times.sort((a, b) => a - b)
    return {
      median: times[Math.floor(times.length / 2)] ?? NaN,
      largest: times[times.length - 1] ?? NaN,
      rounds: times.length,
    }
  } finally {
    server.kill()
  }
}
