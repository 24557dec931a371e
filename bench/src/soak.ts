import type { Browser } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'
import { soundThread, takenByHost } from './host-time'

const MINUTES = 10
const CONTROL_SECONDS = 300
const MOMENT_MS = 100
const SLOT_MS = 128 / 48

/** Late blocks, and for how long of how many ms the thread of the sound ran and waited for a core. */
interface Moment {
  readonly late: number
  readonly ran: number
  readonly waited: number
  readonly of: number
}

/**
 * Why blocks came late. The kernel knows to the microsecond how long the thread of the sound ran and how long
 * it waited for a core. A block that is late by its own work makes it run longer than usual, by what the
 * block takes more than others do; one that is late by other threads makes it wait as long. What is neither,
 * the host of this virtual machine took, which stops the thread unseen.
 */
function blame(
  all: readonly Moment[],
  load: number,
): { own: number; others: number; host: number; longer: number } {
  const much = SLOT_MS * (1 - load)
  // usual is what the moments around it have: the song and the machine's speed change
  const usual = (i: number): number => {
    const around = all
      .slice(Math.max(0, i - 10), i + 11)
      .map((m) => m.ran / m.of)
      .sort((a, b) => a - b)
    return around[around.length >> 1] ?? NaN
  }
  const longer = new Set(all.filter((m, i) => !(m.ran - usual(i) * m.of < much)))
  const late = (which: (m: Moment) => boolean): number =>
    all.reduce((sum, m) => sum + (which(m) ? m.late : 0), 0)
  return {
    own: late((m) => longer.has(m)),
    others: late((m) => !longer.has(m) && !(m.waited < much)),
    host: late((m) => !longer.has(m) && m.waited < much),
    longer: longer.size,
  }
}

/**
 * What the machine alone does to a worklet: one on an empty page that only spins for about as long as the
 * engine takes. Each of its blocks that comes out over its time was taken away by the host, since its work is
 * always the same.
 */
export async function control(
  browser: Browser,
  url: string,
  share: number,
): Promise<{ blocks: number; over: number; worst: number }> {
  const page = await browser.newPage()
  // an empty page of its own, without the app's rules for scripts
  await page.route('**/control', (r) =>
    r.fulfill({ contentType: 'text/html', body: '<title>control</title>' }),
  )
  await page.goto(`${url}/control`)
  const found = await page.evaluate(
    async ({ seconds, part }) => {
      const code = `registerProcessor('spin', class extends AudioWorkletProcessor {
      constructor() { super(); this.clock = typeof Temporal === 'undefined' ? () => Date.now() : () => Number(Temporal.Now.instant().epochNanoseconds) / 1e6; this.blocks = this.over = this.worst = 0; this.turns = 20000
        this.port.onmessage = () => this.port.postMessage({ blocks: this.blocks, over: this.over, worst: this.worst }) }
      process() { const slot = 128 / sampleRate * 1000; const start = this.clock(); let x = 0; for (let i = 0; i < this.turns; i++) x += Math.sqrt(i); this.sink = x
        const took = this.clock() - start
        // the first blocks find out how many turns fill the share asked for; the quickest block decides
        if (this.blocks < 400) { this.quick = Math.min(this.quick ?? 1e9, took || 1e9); if (this.blocks === 399) { this.turns = Math.round(this.turns * ${part} * slot / this.quick); this.blocks = 400; return true } this.blocks++; return true }
        this.blocks++; if (took > slot) this.over++; if (took > this.worst) this.worst = took; return true } })`
      const context = new AudioContext({ sampleRate: 48_000 })
      await context.audioWorklet.addModule(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
      const node = new AudioWorkletNode(context, 'spin')
      node.connect(context.destination)
      await context.resume()
      await new Promise((r) => setTimeout(r, seconds * 1000))
      const result = await new Promise<{ blocks: number; over: number; worst: number }>((resolve) => {
        node.port.onmessage = (e) => resolve(e.data as { blocks: number; over: number; worst: number })
        node.port.postMessage(0)
      })
      await context.close()
      return result
    },
    { seconds: CONTROL_SECONDS, part: share },
  )
  await page.close()
  return found
}

/**
 * Plays the demo in the real app for ten minutes: blocks over their time as the worklet counts them, dropouts
 * at the output, and the heap.
 */
export async function soak(
  browser: Browser,
  buffer: string,
  table: (title: string, rows: string[][]) => void,
): Promise<unknown> {
  const server = await serve(4699, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    /** Dropouts so far at the output itself, by the browser's own count: it has more than a block in hand. */
    const dropouts = (): Promise<number> =>
      page.evaluate(
        () => (globalThis as unknown as { oleaje: { dropouts(): number | null } }).oleaje.dropouts() ?? NaN,
      )
    await page.goto('http://127.0.0.1:4699/')
    await page.getByRole('button', { name: /^engine/ }).click()
    await page.getByRole('radio', { name: buffer }).click()
    await page.getByRole('button', { name: /^engine/ }).click()
    await page.getByRole('button', { name: 'Play' }).click()
    await page.waitForFunction(
      () => (globalThis as unknown as { oleaje: { live(): { worst: number } } }).oleaje.live().worst > 0,
    )
    // on a slow machine the rehearsal may go on for some seconds, and dropouts are counted from a while after
    // it
    await page.waitForFunction(
      () => (globalThis as unknown as { oleaje: { dropouts(): number | null } }).oleaje.dropouts() !== null,
    )
    await new Promise((r) => setTimeout(r, 5000))
    await page.evaluate(() => (globalThis as unknown as { oleaje: { measure(): void } }).oleaje.measure())
    const droppedBefore = await dropouts()
    const heap: number[] = []
    let missed = 0
    const stolen = takenByHost()
    const thread = soundThread() ?? (() => ({ ran: NaN, waited: NaN }))
    let before = thread()
    let at = performance.now()
    const all: Moment[] = []
    for (let m = 0; m < MINUTES; m++) {
      for (let s = 0; s < 60_000; s += MOMENT_MS) {
        await new Promise((r) => setTimeout(r, MOMENT_MS))
        const now = await page.evaluate(
          () => (globalThis as unknown as { oleaje: { live(): { missed: number } } }).oleaje.live().missed,
        )
        const after = thread()
        const then = performance.now()
        all.push({
          late: now - missed,
          ran: after.ran - before.ran,
          waited: after.waited - before.waited,
          of: then - at,
        })
        missed = now
        before = after
        at = then
      }
      heap.push(
        await page.evaluate(() => {
          ;(globalThis as unknown as { gc?: () => void }).gc?.()
          return (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize
        }),
      )
    }
    const dropped = (await dropouts()) - droppedBefore
    const live = await page.evaluate(() =>
      (globalThis as unknown as { oleaje: { live(): Record<string, number> } }).oleaje.live(),
    )
    const why = blame(all, live.load ?? 0)
    table(`Soak, ${MINUTES} minutes of the demo in the app, ${buffer} buffer`, [
      ['load', `${((live.load ?? 0) * 100).toFixed(1)} %`],
      ['worst block', `${((live.worst ?? 0) * 100).toFixed(0)} % of its time`],
      ['blocks over their time', String(live.missed)],
      [
        'of them while the thread of the sound ran longer than usual: its own work, or chance',
        String(why.own),
      ],
      [`(so long it ran in ${why.longer} of ${all.length} moments of ${MOMENT_MS} ms)`, ''],
      ['while it waited for a core: other work on this machine', String(why.others)],
      ['while it did neither: taken by the host', String(why.host)],
      [
        'time that the host took in all, by the kernel’s ticks',
        `${((takenByHost() - stolen) / 100).toFixed(1)} s`,
      ],
      ['dropouts at the output, by the browser’s own count', String(dropped)],
      ['page heap by minute', heap.map((h) => `${(h / 1e6).toFixed(1)} MB`).join(', ')],
    ])
    const alone = await control(browser, 'http://127.0.0.1:4699', live.load ?? 0.25)
    table(`Control, ${CONTROL_SECONDS} s of a worklet that always does the same for as long`, [
      ['blocks over their time', `${alone.over} of ${alone.blocks}`],
      ['worst block', `${alone.worst.toFixed(0)} ms`],
    ])
    return { live, dropped, why, heap, alone }
  } finally {
    server.kill()
  }
}
