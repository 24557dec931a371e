import type { Browser, Page } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'
import { soundThread, takenByHost } from './host-time'

const ROUNDS = 15

/** Ms by which the thread of the sound runs longer where a block was late by its own work. */
const LONGER_MS = 1.5

interface Round {
  readonly worst: number
  readonly missed: number
  readonly host: boolean
  readonly ran: number
}
interface Live {
  readonly worst: number
  readonly missed: number
  readonly blocks: number
}
const oleaje = 'oleaje' as never

/**
 * Edits of the structure by the keys of the real app while the demo plays. By the worklet's own count,
 * messages included: the worst block from an edit until a quarter of a second after it, as a share of a
 * block's time, worst and median of those rounds in which the host took no processor time; how many they
 * were; and how many blocks were over in them, while the thread of the sound ran longer than it mostly does
 * and while it did not, and in the others.
 */
export async function editsInApp(browser: Browser): Promise<
  {
    id: string
    rounds: number
    worst: number
    median: number
    missed: number
    missedAway: number
    missedByHost: number
  }[]
> {
  const server = await serve(4697, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto('http://127.0.0.1:4697/')
    await page.getByRole('button', { name: 'Play' }).click()
    await page.waitForFunction(
      () => (globalThis as unknown as { oleaje: { live(): { beat: number } } }).oleaje.live().beat > 4,
    )
    const live = (): Promise<Live> =>
      page.evaluate(
        (o) => (globalThis as unknown as Record<string, { live(): Live }>)[o]?.live() as Live,
        oleaje as string,
      )
    const steps: [string, (p: Page) => Promise<void>][] = [
      ['nothing', () => Promise.resolve()],
      ['duplicate', (p) => p.keyboard.press('d')],
      ['undo', (p) => p.keyboard.press('Control+z')],
      ['move', (p) => p.keyboard.press('Control+Shift+ArrowRight')],
      ['move back', (p) => p.keyboard.press('Control+Shift+ArrowLeft')],
      ['off', (p) => p.keyboard.press('x')],
      ['on', (p) => p.keyboard.press('x')],
      ['remove', (p) => p.keyboard.press('Delete')],
      ['undo of it', (p) => p.keyboard.press('Control+z')],
      ['to B', (p) => p.keyboard.press('c')],
      ['to A', (p) => p.keyboard.press('c')],
    ]
    const found = new Map(steps.map(([id]) => [id, [] as Round[]]))
    const thread = soundThread()
    await page.keyboard.press('ArrowRight')
    for (let round = 0; round < ROUNDS; round++) {
      for (const [id, act] of steps) {
        const taken = takenByHost()
        await page.evaluate((o) => {
          ;(globalThis as unknown as Record<string, { measure(): void }>)[o]?.measure()
        }, oleaje as string)
        await new Promise((r) => setTimeout(r, 30))
        const ran = thread?.().ran ?? NaN
        await act(page)
        await new Promise((r) => setTimeout(r, 250))
        const now = await live()
        found.get(id)?.push({
          worst: now.worst,
          missed: now.missed,
          host: takenByHost() > taken,
          ran: (thread?.().ran ?? NaN) - ran,
        })
      }
    }
    await page.close()
    return [...found].map(([id, all]) => {
      const calm = all.filter((r) => !r.host)
      const worst = calm.map((r) => r.worst).sort((a, b) => a - b)
      const usual = calm.map((r) => r.ran).sort((a, b) => a - b)[calm.length >> 1] ?? NaN
      const own = calm.filter((r) => !(r.ran - usual < LONGER_MS))
      const missed = (list: readonly Round[]): number => list.reduce((sum, r) => sum + r.missed, 0)
      return {
        id,
        rounds: calm.length,
        worst: worst.at(-1) ?? 0,
        median: worst[worst.length >> 1] ?? 0,
        missed: missed(own),
        missedAway: missed(calm) - missed(own),
        missedByHost: missed(all) - missed(calm),
      }
    })
  } finally {
    server.kill()
  }
}
