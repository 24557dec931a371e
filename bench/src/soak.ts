import type { Browser } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'

const MINUTES = 10

/** Plays the demo in the real app for ten minutes: blocks over their time as the worklet counts them, and the heap. */
export async function soak(browser: Browser, table: (title: string, rows: string[][]) => void): Promise<unknown> {
  const server = await serve(4699, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto('http://127.0.0.1:4699/')
    await page.getByRole('button', { name: 'Play' }).click()
    await page.waitForFunction(() => (globalThis as unknown as { oleaje: { live(): { worst: number } } }).oleaje.live().worst > 0)
    await new Promise((r) => setTimeout(r, 5000))
    await page.evaluate(() => (globalThis as unknown as { oleaje: { measure(): void } }).oleaje.measure())
    const heap: number[] = []
    for (let m = 0; m < MINUTES; m++) {
      await new Promise((r) => setTimeout(r, 60_000))
      heap.push(await page.evaluate(() => {
        (globalThis as unknown as { gc?: () => void }).gc?.()
        return (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize
      }))
    }
    const live = await page.evaluate(() => (globalThis as unknown as { oleaje: { live(): Record<string, number> } }).oleaje.live())
    table(`Soak, ${MINUTES} minutes of the demo in the app`, [['load', `${((live.load ?? 0) * 100).toFixed(1)} %`], ['worst block', `${((live.worst ?? 0) * 100).toFixed(0)} % of its time`], ['blocks over their time', String(live.missed)],
      ['page heap by minute', heap.map((h) => `${(h / 1e6).toFixed(1)} MB`).join(', ')]])
    return { live, heap }
  } finally {
    server.kill()
  }
}
