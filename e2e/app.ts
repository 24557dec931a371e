import AxeBuilder from '@axe-core/playwright'
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { audioHash } from '@oleaje/core/formats/hash'
import { planRender, render } from '@oleaje/core/render/render'
import { newProject } from '@oleaje/core/project/new'
import type { Project, Track } from '@oleaje/core/project/schema'
import { readWav } from '@oleaje/core/formats/wav'
import type { BrowserContext, Download, Page } from '@playwright/test'
import { expect } from './fixtures'

interface Inspect {
  live(): Record<'load' | 'worst' | 'missed' | 'beat' | 'blocks', number>
  project(): Project | null
  value(key: string): number
  auditioned(): string
  sound(hash: string): { channels: Float32Array[] } | undefined
  capture(beat: number, frames: number): Promise<{ left: number[]; right: number[]; latency: number }>
}

declare global {
  var oleaje: Inspect
}

/**
 * Opens the app and waits until it hears keys. Files are saved as downloads, not by a picker.
 * @param shown opened instead of the demo, whose sounds take more than a second of processor time
 */
export async function open(page: Page, shown?: Project): Promise<void> {
  if (shown) await page.route('**/demo/night-ferry.json', (route) => route.fulfill({ json: shown }))
  await withoutPickers(page.context())
  await page.goto('/')
  await ready(page)
}

/** Contexts whose pages have no file pickers. */
const without = new WeakSet<BrowserContext>()

async function withoutPickers(context: BrowserContext): Promise<void> {
  if (without.has(context)) return
  without.add(context)
  await context.addInitScript(() => {
    Reflect.deleteProperty(window, 'showSaveFilePicker')
    Reflect.deleteProperty(window, 'showDirectoryPicker')
    Reflect.deleteProperty(window, 'showOpenFilePicker')
  })
}

/** Done when a page that was loaded hears keys and shows its project. */
export async function ready(page: Page): Promise<void> {
  await expect(page.getByTestId('save-state')).toHaveText(/saved|read-only/)
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  // the browser drops keys that come before it has painted anything, as nobody could have seen what they
  // press
  await page.waitForFunction(
    () =>
      document.documentElement.dataset.keys === 'heard' &&
      (globalThis as { oleaje?: Inspect }).oleaje?.project() != null &&
      performance.getEntriesByName('first-contentful-paint').length > 0,
  )
  await page.evaluate(
    () => new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted))),
  )
}

const folder = join(import.meta.dirname, '../demo/assets')

/** The sounds of the demo by their hash. */
export const demoSounds = async (): Promise<ReadonlyMap<string, ReturnType<typeof readWav>>> =>
  new Map(
    await Promise.all(
      readdirSync(folder)
        .filter((n) => n.endsWith('.wav'))
        .map(async (n) => {
          const wav = readWav(readFileSync(join(folder, n)))
          return [await audioHash(wav), wav] as const
        }),
    ),
  )

/**
 * Plays the open project from its start in the worklet, renders it in Node, and compares the two: samples
 * that differ, and the largest there is. The short form compares half of it.
 */
export async function liveAgainstRender(
  page: Page,
  most: number,
): Promise<{ different: number; loudest: number }> {
  const seconds = process.env.OLEAJE_LONG ? most : most / 2
  const frames = (await project(page)).sampleRate * seconds
  const live = await page.evaluate((n) => globalThis.oleaje.capture(0, n), frames)
  const sounds = await demoSounds()
  let at = 0
  let different = 0
  let loudest = 0
  for (const { channels, done } of render(
    planRender(await project(page), { from: 0, to: seconds + 1, tail: 0 }),
    (hash) => sounds.get(hash) ?? null,
  )) {
    for (let i = 0; at + i < done && at + i + live.latency < frames; i++) {
      loudest = Math.max(loudest, Math.abs(channels[0][i] ?? 0))
      if (
        channels[0][i] !== live.left[at + i + live.latency] ||
        channels[1][i] !== live.right[at + i + live.latency]
      )
        different++
    }
    at = done
  }
  return { different, loudest }
}

/** Drops a file on the page, as from the desktop. */
export async function drop(page: Page, name: string, bytes: Uint8Array, onto = 'main'): Promise<void> {
  const transfer = await page.evaluateHandle(
    ([n, b]) => {
      const t = new DataTransfer()
      t.items.add(new File([Uint8Array.from(atob(b as string), (c) => c.charCodeAt(0))], n as string))
      return t
    },
    [name, Buffer.from(bytes).toString('base64')],
  )
  await page.dispatchEvent(onto, 'drop', { dataTransfer: transfer })
}

export const project = async (page: Page): Promise<Project> =>
  (await page.evaluate(() => globalThis.oleaje.project())) as Project

export async function wavOf(download: Download): Promise<ReturnType<typeof readWav>> {
  return readWav(readFileSync(await download.path()))
}

/** Rate in Hz, and lowest and highest level in dB, of the slow change of a tone's level. */
export function levelMotion(
  signal: Float32Array,
  sampleRate: number,
): { rate: number; low: number; high: number } {
  const hop = Math.round(sampleRate / 200)
  // three periods of the tone at 220 Hz, so that the window itself adds no ripple
  const span = Math.round((3 * sampleRate) / 220)
  const levels: number[] = []
  for (let at = 0; at + span < signal.length; at += hop) {
    let sum = 0
    for (let i = 0; i < span; i++) sum += (signal[at + i] ?? 0) ** 2
    levels.push(10 * Math.log10((2 * sum) / span + 1e-12))
  }
  const low = Math.min(...levels)
  const high = Math.max(...levels)
  const middle = (low + high) / 2
  const rises = levels.flatMap((v, i) => (i && (levels[i - 1] ?? 0) < middle && v >= middle ? [i] : []))
  const first = rises[0] ?? 0
  const last = rises[rises.length - 1] ?? 0
  return { rate: (rises.length - 1) / (((last - first) * hop) / sampleRate), low, high }
}

/**
 * What axe finds serious or critical, with the first places. @param within what is looked at; all of the page
 * where it is left out
 * @param colours looks at colours alone, as another palette changes nothing else
 */
export async function serious(
  page: Page,
  { within = 'html', colours = false }: { within?: string; colours?: boolean } = {},
): Promise<string[]> {
  const axe = new AxeBuilder({ page }).include(within)
  const { violations } = await (colours ? axe.withRules(['color-contrast']) : axe).analyze()
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.nodes
          .slice(0, 3)
          .map((n) => n.html.slice(0, 160))
          .join(' | ')}`,
    )
}

/** A project without tracks at 107 bpm. */
export const empty = (name: string): Project => ({ ...newProject(name), tempo: 107 })
export const trackNamed = async (page: Page, name: string): Promise<Track> => {
  const found = (await project(page)).tracks.find((t) => t.name === name)
  if (!found) throw new Error(`There is no track “${name}”.`)
  return found
}
/** A live value. */
export const value = (page: Page, key: string): Promise<number> =>
  page.evaluate((k) => globalThis.oleaje.value(k), key)
/**
 * Done when a live value has risen, if only for some blocks: looked at in the page, as the way to it takes
 * longer.
 */
export const rises = async (page: Page, key: string, timeout = 3000): Promise<void> => {
  await page.waitForFunction((k) => globalThis.oleaje.value(k) > 0.01, key, { polling: 4, timeout })
}
/** The lane of the notes that lie open. */
export const lane = (page: Page) => page.locator('[data-region=notes]')

/**
 * Chooses something from a menu by its button.
 * @param within a selector of the part of the page where the button is
 */
export async function menu(
  page: Page,
  button: string | RegExp,
  item: string | RegExp,
  within = 'body',
): Promise<void> {
  await page.locator(within).getByRole('button', { name: button, exact: true }).last().click()
  await page.getByRole('menuitem', { name: item, exact: typeof item === 'string' }).click()
}

/** Opens a project as from a file. */
export async function openProject(page: Page, p: Project): Promise<void> {
  await drop(page, 'project.json', Buffer.from(JSON.stringify(p)))
  await expect.poll(async () => (await project(page)).name).toBe(p.name)
}

/** Opens the notes of a track in the Timeline. */
export async function openNotes(page: Page, name: string): Promise<void> {
  await page.keyboard.press('t')
  await page.getByRole('button', { name: `Notes of ${name}`, exact: true }).click()
  await lane(page).scrollIntoViewIfNeeded()
}
