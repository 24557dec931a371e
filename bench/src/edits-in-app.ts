import type { Browser, Page } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'
import { takenByHost } from './host-time'

const ROUNDS = 15

interface Live { readonly worst: number, readonly missed: number, readonly blocks: number }
const oleaje = 'oleaje' as never

/**
 * Edits of the structure by the keys of the real app while the demo plays. By the worklet's own count, messages
 * included: the worst block from an edit until a quarter of a second after it, as a share of a block's time, worst and
 * median of those rounds in which the host took no processor time; how many they were, and how many blocks were over in
 * them and in the others.
 */
export async function editsInApp(browser: Browser): Promise<{ id: string, rounds: number, worst: number, median: number, missed: number, missedByHost: number }[]> {
  const server = await serve(4697, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto('http://127.0.0.1:4697/')
    await page.getByRole('button', { name: 'Play' }).click()
    await page.waitForFunction(() => (globalThis as unknown as { oleaje: { live(): { beat: number } } }).oleaje.live().beat > 4)
    const live = (): Promise<Live> => page.evaluate((o) => (globalThis as unknown as Record<string, { live(): Live }>)[o]?.live() as Live, oleaje as string)
    const steps: [string, (p: Page) => Promise<void>][] = [
      ['nothing', () => Promise.resolve()],
      ['duplicate', (p) => p.keyboard.press('d')], ['undo', (p) => p.keyboard.press('Control+z')],
      ['move', (p) => p.keyboard.press('Control+Shift+ArrowRight')], ['move back', (p) => p.keyboard.press('Control+Shift+ArrowLeft')],
      ['off', (p) => p.keyboard.press('x')], ['on', (p) => p.keyboard.press('x')],
      ['remove', (p) => p.keyboard.press('Delete')], ['undo of it', (p) => p.keyboard.press('Control+z')],
      ['to B', (p) => p.keyboard.press('c')], ['to A', (p) => p.keyboard.press('c')],
    ]
    const found = new Map(steps.map(([id]) => [id, { worst: [] as number[], missed: 0, missedByHost: 0 }]))
    await page.keyboard.press('ArrowRight')
    for (let round = 0; round < ROUNDS; round++) {
      for (const [id, act] of steps) {
        const taken = takenByHost()
        await page.evaluate((o) => { (globalThis as unknown as Record<string, { measure(): void }>)[o]?.measure() }, oleaje as string)
        await new Promise((r) => setTimeout(r, 30))
        await act(page)
        await new Promise((r) => setTimeout(r, 250))
        const now = await live()
        const entry = found.get(id)
        if (!entry) continue
        if (takenByHost() > taken) entry.missedByHost += now.missed
        else {
          entry.worst.push(now.worst)
          entry.missed += now.missed
        }
      }
    }
    await page.close()
    return [...found].map(([id, f]) => {
      const sorted = f.worst.sort((a, b) => a - b)
      return { id, rounds: sorted.length, worst: sorted[sorted.length - 1] ?? 0, median: sorted[sorted.length >> 1] ?? 0, missed: f.missed, missedByHost: f.missedByHost }
    })
  } finally {
    server.kill()
  }
}
