import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { apply } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { readProject } from '@oleaje/core/project/read'
import { paramsOf } from '@oleaje/core/project/targets'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import type { Browser } from 'playwright-core'
import { serve } from '../../scripts/serve.mjs'
import { takenByHost } from './host-time'

const LINKS = 300
/** Seconds of scrolling, and of editing. */
const ROUNDS = 10

/** The demo with so many links that the table has three hundred. */
function crowded(text: string): string {
  let p = { ...readProject(text), id: 'crowded', name: 'Crowded' }
  for (let i = 0; i < 12; i++)
    p = apply(p, addModulator('pad', 'lfo', { id: `crowd-${i}`, params: { rate: 0.1 + i / 10 } })).next
  const targets = p.tracks.flatMap((track) =>
    [...nodesIn(heardChain(track).nodes)].flatMap((node) =>
      Object.entries(paramsOf({ kind: 'node', node, track }) ?? {})
        .filter(([, s]) => s.unit !== 'choice' && s.unit !== 'toggle')
        .map(([param]) => ({ owner: node.id, param })),
    ),
  )
  for (let i = 0; p.links.length < LINKS && i < 4000; i++) {
    const target = targets[i % targets.length]
    if (target)
      p = apply(
        p,
        addLink(`crowd-${((i % targets.length) + Math.floor(i / targets.length)) % 12}`, target, 0.45, 0.55, {
          id: `crowd-link-${i}`,
        }),
      ).next
  }
  return JSON.stringify(p)
}

/**
 * Longest frames in ms of the rounds in which the host took no processor time, and of the others; and how
 * many those were.
 */
interface Frames {
  readonly own: number
  readonly host: number
  readonly apart: number
}

/**
 * In the real app: the longest frame while a table of three hundred links is scrolled, and while all of them
 * are edited at once.
 */
export async function appFigures(
  browser: Browser,
): Promise<{ links: number; rounds: number; scroll: Frames; edit: Frames; load: number }> {
  const root = process.env.OLEAJE_ROOT ?? process.cwd()
  const server = await serve(4698, true)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto('http://127.0.0.1:4698/')
    await page.waitForFunction(() =>
      (globalThis as unknown as { oleaje?: { project(): unknown } }).oleaje?.project(),
    )
    const data = crowded(readFileSync(join(root, 'demo/assets/night-ferry.json'), 'utf8'))
    const transfer = await page.evaluateHandle((text) => {
      const t = new DataTransfer()
      t.items.add(new File([text], 'crowded.json'))
      return t
    }, data)
    await page.dispatchEvent('main', 'drop', { dataTransfer: transfer })
    await page.getByRole('link', { name: /^Links/ }).click()
    await page.getByText(`${LINKS} of ${LINKS}`).waitFor()
    await page.keyboard.press('Space')
    await page.waitForFunction(
      () => (globalThis as unknown as { oleaje: { live(): { beat: number } } }).oleaje.live().beat > 1,
    )
    /** Longest frame in ms while the table is scrolled or edited for a second. */
    const second = async (kind: 'scroll' | 'edit'): Promise<number> =>
      page.evaluate(async (k) => {
        const rows = document.querySelector('[role=rowgroup]')
        const frame = (): Promise<number> => new Promise((r) => requestAnimationFrame(r))
        let last = await frame()
        let worst = 0
        for (let i = 0; i < 60; i++) {
          if (k === 'scroll' && rows)
            rows.scrollTop = (i * 167) % Math.max(1, rows.scrollHeight - rows.clientHeight)
          if (k === 'edit' && i % 15 === 7)
            Array.from(document.querySelectorAll('button'))
              .find((b) => b.textContent === 'Scale')
              ?.click()
          const now = await frame()
          // the first frames warm up
          if (i > 3) worst = Math.max(worst, now - last)
          last = now
        }
        return worst
      }, kind)
    const longest = async (kind: 'scroll' | 'edit'): Promise<Frames> => {
      let own = 0,
        host = 0,
        apart = 0
      for (let i = 0; i < ROUNDS; i++) {
        const taken = takenByHost()
        const worst = await second(kind)
        if (takenByHost() > taken) {
          host = Math.max(host, worst)
          apart++
        } else own = Math.max(own, worst)
      }
      return { own, host, apart }
    }
    const scroll = await longest('scroll')
    await page.getByRole('button', { name: 'Choose all shown' }).click()
    await page.getByRole('textbox', { name: 'Factor for amounts' }).fill('0.97')
    const edit = await longest('edit')
    const { load } = await page.evaluate(() =>
      (globalThis as unknown as { oleaje: { live(): { load: number } } }).oleaje.live(),
    )
    await page.close()
    return { links: LINKS, rounds: ROUNDS, scroll, edit, load }
  } finally {
    server.kill()
  }
}
