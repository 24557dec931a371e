import { closeSync, mkdtempSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { wavHeader } from '@oleaje/core/formats/wav'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { type Browser, type Page, chromium } from '@playwright/test'
import { drop, menu, open, project, wavOf } from './app'
import { alone, expect, test } from './fixtures'

const RATE = 48_000
/** Sample `i` of the recording as 16 bits: no two places are alike, and each can be told by itself. */
const sampleAt = (i: number): number => Math.imul(i, 0x9e3779b1) >> 18
const MB = 1e6

let folder = ''
test.beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'oleaje-long-'))
})
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** A recording of so many frames, as a file. */
function recording(name: string, frames: number): string {
  const file = join(folder, name)
  const out = openSync(file, 'w')
  writeSync(out, wavHeader({ channels: 1, sampleRate: RATE, depth: 16, frames }))
  const part = new Int16Array(1 << 20)
  for (let at = 0; at < frames; at += part.length) {
    for (let i = 0; i < part.length; i++) part[i] = sampleAt(at + i)
    writeSync(out, new Uint8Array(part.buffer, 0, 2 * Math.min(part.length, frames - at)))
  }
  closeSync(out)
  return file
}
/** Two hours and a little where there is time for it; eight minutes where not. */
const SECONDS = (process.env.OLEAJE_LONG ? 2 * 3600 : 8 * 60) + 1.37
const FRAMES = Math.round(SECONDS * RATE)
/** Where it is looped, near its end. */
const FROM = SECONDS - 290

/**
 * Bytes of memory that the page's process and the browser's own have, without what they share with others.
 */
async function memoryOf(browser: Browser): Promise<{ page: number; browser: number }> {
  const cdp = await browser.newBrowserCDPSession()
  const { processInfo } = await cdp.send('SystemInfo.getProcessInfo')
  await cdp.detach().catch(() => {})
  const of = (type: string): number =>
    Math.max(
      0,
      ...processInfo
        .filter((p) => p.type === type)
        .map(({ id }) => {
          try {
            return (
              1024 * Number(/RssAnon:\s+(\d+)/.exec(readFileSync(`/proc/${id}/status`, 'utf8'))?.[1] ?? 0)
            )
          } catch {
            return 0
          }
        }),
    )
  return { page: of('renderer'), browser: of('browser') }
}

/** The most that is had while something is done. */
async function mostOf(
  browser: Browser,
  what: () => Promise<void>,
): Promise<{ page: number; browser: number }> {
  const most = { page: 0, browser: 0 }
  let done = false
  const watching = (async () => {
    while (!done) {
      const now = await memoryOf(browser).catch(() => most)
      most.page = Math.max(most.page, now.page)
      most.browser = Math.max(most.browser, now.browser)
      await new Promise((later) => setTimeout(later, 300))
    }
  })()
  await what().finally(() => {
    done = true
  })
  await watching
  return most
}

/** Chooses a recording for new track, as by a person's file picker. */
async function choose(page: Page, file: string): Promise<void> {
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Sound from a file…' }).click()
  await (await chooser).setFiles(file)
}

/** Bytes that the browser keeps for the app. */
const kept = (page: Page): Promise<number> =>
  page.evaluate(async () => (await navigator.storage.estimate()).usage ?? 0)
const said = (page: Page): Promise<string> =>
  page.evaluate(() => document.querySelector('[role=alert]')?.textContent ?? '')

/** Waits until a sound is known to the engine. */
const there = (page: Page, hash: string): Promise<unknown> =>
  page.waitForFunction((h) => globalThis.oleaje.sound(h) !== undefined, hash)

/**
 * Plays from a beat and finds the recording there from one of its frames on, to the bit. What is wanted anew
 * comes in a moment, so it is played twice.
 */
async function heardAt(page: Page, beat: number, frame: number): Promise<void> {
  await page.evaluate((b) => globalThis.oleaje.capture(b, 48_000), beat)
  const { left, latency } = await page.evaluate((b) => globalThis.oleaje.capture(b, 9600), beat)
  const captured = left.slice(latency)
  expect(captured).toEqual(captured.map((_, i) => Math.fround(sampleAt(frame + i) / 32_768)))
}

/**
 * A browser that keeps what it is given on disk, as a person's does; that of the other tests has a memory
 * only.
 */
async function withDisk(what: (page: Page, browser: Browser) => Promise<void>): Promise<void> {
  const { launchOptions, baseURL, viewport } = test.info().project.use
  const profile = mkdtempSync(join(folder, 'profile-'))
  const context = await chromium.launchPersistentContext(profile, { ...launchOptions, baseURL, viewport })
  try {
    await what(context.pages()[0] ?? (await context.newPage()), context.browser() as Browser)
  } finally {
    await context.close()
    rmSync(profile, { recursive: true, force: true })
  }
}

test(
  'a long recording (two hours in the long form) is brought in piece by piece, looped where it is wanted, and rendered; the page stays small',
  alone,
  () =>
    withDisk(async (page, browser) => {
      test.setTimeout(600_000)
      await open(page)
      const file = recording('crossing.wav', FRAMES)
      const before = await kept(page)
      const progress = page.getByRole('progressbar', { name: 'Importing crossing.wav' })
      // stopped on the way, nothing of it stays
      await choose(page, file)
      await expect(progress).toBeVisible()
      await page.getByRole('button', { name: 'Stop', exact: true }).last().click()
      await expect(progress).toBeHidden()
      await expect.poll(() => kept(page)).toBeLessThan(before + 40 * MB)
      const importing = await mostOf(browser, async () => {
        await choose(page, file)
        await expect(progress).toBeVisible()
        await expect(progress).toBeHidden({ timeout: 400_000 })
      })
      expect(await said(page)).toBe('')
      const track = (await project(page)).tracks.find((t) => t.name === 'crossing')
      const hash = track?.source?.audio ?? ''
      expect((await project(page)).audio[hash]).toMatchObject({
        frames: FRAMES,
        channels: 1,
        sampleRate: RATE,
      })
      expect(await kept(page)).toBeGreaterThan(FRAMES * 4)

      // looped near its end, in a project of its own at its own rate, to which it comes from where it is kept
      const tempo = 107
      const beat = (seconds: number): number => (seconds * tempo) / 60
      const p: Project = {
        ...newProject('Two hours'),
        tempo,
        loop: { on: true, start: beat(FROM), end: beat(FROM + 1.74) },
        audio: { [hash]: { name: 'crossing', frames: FRAMES, channels: 1, sampleRate: RATE } },
      }
      p.tracks.unshift(newTrack('crossing', newSource('loop', {}, hash), 'track'))
      await drop(page, 'project.json', Buffer.from(JSON.stringify(p)))
      await expect.poll(async () => (await project(page)).name).toBe('Two hours')
      await there(page, hash)
      const frame = Math.round(FROM * RATE)
      const playing = await mostOf(browser, async () => {
        await page.keyboard.press('Space')
        await expect
          .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:track')))
          .toBeGreaterThan(0.01)
        // three rounds of the loop and a bit
        const blocks = (): Promise<number> => page.evaluate(() => globalThis.oleaje.live().blocks)
        const before = await blocks()
        await expect.poll(blocks).toBeGreaterThan(before + (3.37 * 1.74 * RATE) / 128)
        await page.keyboard.press('Space')
        await heardAt(page, beat(FROM), frame)
      })
      // the source says what it takes
      await page.getByRole('button', { name: 'Source', exact: true }).click()
      await expect(
        page.getByText(
          `of ${process.env.OLEAJE_LONG ? '2:00:01.37, streamed from storage: 1,383' : '8:01.37, streamed from storage: 92'} MB in this browser`,
        ),
      ).toBeVisible()
      await expect(page.getByTestId('at-hand')).toHaveText(/^[1-9]\d?$/)
      const from = page.getByLabel('Time where the sound begins')
      await from.fill('7:00.37')
      await from.press('Enter')
      await expect
        .poll(async () => (await project(page)).tracks[0]?.source?.params.start)
        .toBeCloseTo((420.37 * RATE) / FRAMES, 9)
      // its wave down to samples, which are read from where it is kept: a mark that is dragged finds where it
      // crosses zero
      const mark = page.getByRole('button', { name: /^Move where the sound begins/ })
      await mark.focus()
      for (let i = 0; i < 30; i++) await page.keyboard.press('+')
      const wave = page.getByRole('img', { name: 'Source of crossing' })
      const box = (await wave.boundingBox())!
      const crosses = async (): Promise<boolean> => {
        const at = ((await project(page)).tracks[0]?.source?.params.start ?? 0) * FRAMES
        const f = Math.round(at)
        return (
          Math.abs(f - 420.37 * RATE) < 40 &&
          Math.abs(at - f) < 1e-3 &&
          sampleAt(f - 1) < 0 !== sampleAt(f) < 0
        )
      }
      for (let x = 0.2, found = 0; found < 3; x += 0.13) {
        expect(x).toBeLessThan(1)
        await page.mouse.move(box.x + x * box.width, box.y + 20)
        await page.mouse.down()
        await page.mouse.move(box.x + (x + 0.01) * box.width, box.y + 20)
        await page.mouse.up()
        if (await crosses()) found++
      }
      for (let i = 0; i < 9; i++) await page.keyboard.press('Control+z')
      expect((await project(page)).tracks[0]?.source?.params.start ?? 0).toBe(0)
      const rendering = await mostOf(browser, async () => {
        await page.getByRole('link', { name: 'Render', exact: true }).click()
        await page.getByRole('button', { name: '24 bit' }).click()
        await page.getByRole('option', { name: '32 bit float' }).click()
        const [download] = await Promise.all([
          page.waitForEvent('download'),
          page.getByRole('button', { name: 'Render to WAV' }).click(),
        ])
        const {
          channels: [left],
        } = await wavOf(download)
        for (let i = 0; i < 1.7 * RATE; i += 311)
          expect(left?.[i]).toBe(Math.fround(sampleAt(frame + i) / 32_768))
        await page.keyboard.press('Escape')
      })
      test.info().annotations.push({
        type: 'memory',
        description: JSON.stringify({ importing, playing, rendering, kept: await kept(page) }),
      })
      for (const most of [importing, playing, rendering])
        expect(most.page + most.browser).toBeLessThan(500 * MB)
    }),
)

test('many sounds brought in and removed leave storage as it was', alone, () =>
  withDisk(async (page) => {
    test.setTimeout(600_000)
    const rounds = process.env.OLEAJE_LONG ? 40 : 1
    const each = 25
    await open(page)
    const sounds = (): Promise<{ sounds: number; pieces: number }> =>
      page.evaluate(
        () =>
          new Promise((resolve) => {
            const asked = indexedDB.open('oleaje')
            asked.onsuccess = () => {
              const tx = asked.result.transaction(['audio', 'pieces'])
              const [a, b] = [tx.objectStore('audio').count(), tx.objectStore('pieces').count()]
              tx.oncomplete = () => {
                asked.result.close()
                resolve({ sounds: a.result, pieces: b.result })
              }
            }
          }),
      )
    // those of the demo, once they are kept
    const shipped = Object.keys((await project(page)).audio).length
    await expect.poll(async () => (await sounds()).sounds).toBe(shipped)
    const before = await sounds()
    const empty = newProject('Rounds')
    await drop(page, 'project.json', Buffer.from(JSON.stringify(empty)))
    await expect.poll(async () => (await project(page)).name).toBe('Rounds')
    for (let round = 0; round < rounds; round++) {
      await page.evaluate(
        ([n, count]) => {
          const files = new DataTransfer()
          for (let k = 0; k < (count ?? 0); k++) {
            // 0.37 s of a tone of its own each, as a WAV file of 16 bits
            const frames = 17_760
            const view = new DataView(new ArrayBuffer(44 + 2 * frames))
            const words: [number, number, 2 | 4][] = [
              [0, 0x46464952, 4],
              [4, 36 + 2 * frames, 4],
              [8, 0x45564157, 4],
              [12, 0x20746d66, 4],
              [16, 16, 4],
              [20, 1, 2],
              [22, 1, 2],
              [24, 48_000, 4],
              [28, 96_000, 4],
              [32, 2, 2],
              [34, 16, 2],
              [36, 0x61746164, 4],
              [40, 2 * frames, 4],
            ]
            for (const [at, value, size] of words)
              if (size === 4) view.setUint32(at, value, true)
              else view.setUint16(at, value, true)
            for (let i = 0; i < frames; i++)
              view.setInt16(
                44 + 2 * i,
                9000 * Math.sin(i * (0.01 + ((n ?? 0) * (count ?? 0) + k) * 0.0003)),
                true,
              )
            files.items.add(new File([view.buffer], `tone ${n}-${k}.wav`))
          }
          document
            .querySelector('main')
            ?.dispatchEvent(new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true }))
        },
        [round, each],
      )
      await expect.poll(async () => (await project(page)).tracks.length, { timeout: 60_000 }).toBe(each + 1)
      for (let left = each; left > 0; left--) {
        await menu(page, /^Actions for/, 'Remove track', '[data-region=tracks]')
        await expect.poll(async () => (await project(page)).tracks.length, { intervals: [5] }).toBe(left)
      }
    }
    expect(Object.keys((await project(page)).audio)).toEqual([])
    // what steps back would bring again is kept; the project gone with its steps, nothing is
    expect((await sounds()).sounds).toBeGreaterThan(before.sounds)
    expect((await sounds()).sounds).toBeLessThanOrEqual(before.sounds + 500 / 2 + each)
    const projects = page.getByRole('dialog', { name: 'Projects' })
    await menu(page, 'Project', 'Projects…')
    await projects.getByRole('button', { name: 'Night Ferry', exact: true }).last().click()
    await expect.poll(async () => (await project(page)).name).toBe('Night Ferry')
    await menu(page, 'Project', 'Projects…')
    await projects.getByRole('button', { name: 'Remove Rounds' }).click()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Dismiss', exact: true }).click()
    await expect.poll(sounds, { timeout: 60_000, intervals: [1000] }).toEqual(before)
  }),
)

test('a project with a long sound goes into one file, or an archive of all, and comes back from either in another browser', async () => {
  const frames = 361 * RATE + 7
  const bundle = join(folder, 'crossing.zip')
  const archive = join(folder, 'everything.zip')
  await withDisk(async (page) => {
    await open(page, newProject('Six minutes'))
    await expect.poll(async () => (await project(page)).name).toBe('Six minutes')
    await choose(page, recording('six minutes.wav', frames))
    await expect.poll(async () => (await project(page)).tracks.length, { timeout: 60_000 }).toBe(2)
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      menu(page, 'Project', 'Save to file'),
    ])
    await download.saveAs(bundle)
    await menu(page, 'Project', 'Projects…')
    const [all] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Export everything…' }).click(),
    ])
    await all.saveAs(archive)
  })
  await withDisk(async (page) => {
    await open(page)
    await menu(page, 'Project', 'Projects…')
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Open file…' }).click()
    await (await chooser).setFiles(bundle)
    await expect.poll(async () => (await project(page)).name, { timeout: 60_000 }).toBe('Six minutes')
    const [hash = ''] = Object.keys((await project(page)).audio)
    await there(page, hash)
    expect((await project(page)).audio[hash]?.frames).toBe(frames)
    expect(await page.evaluate((h) => globalThis.oleaje.sound(h)?.channels.length, hash)).toBe(0)
    // at 120 bpm, beat 700 is 350 seconds in
    await heardAt(page, 700, 350 * RATE)
    // the sound is read and hashed once more, and what is here already is left alone
    const again = page.waitForEvent('filechooser')
    await menu(page, 'Project', 'Projects…')
    await page.getByRole('button', { name: 'Import everything…' }).click()
    await (await again).setFiles(archive)
    await expect(page.getByText(/^Imported \d+ projects?, /)).toBeVisible({ timeout: 60_000 })
  })
})
