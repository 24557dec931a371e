import type { Page } from '@playwright/test'
import { writeWav } from '@oleaje/core/formats/wav'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { drop, empty, menu, open, project } from './app'
import { alone, expect, test } from './fixtures'

declare global {
  var contexts: Set<AudioContext>
}

/** Keeps account of the audio contexts that are open. */
async function countContexts(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const Real = globalThis.AudioContext
    globalThis.contexts = new Set()
    globalThis.AudioContext = class extends Real {
      constructor(options?: AudioContextOptions) {
        super(options)
        globalThis.contexts.add(this)
        this.addEventListener('statechange', () => {
          if (this.state === 'closed') globalThis.contexts.delete(this)
        })
      }
    }
  })
}
const button = (page: Page, name: string) => page.getByRole('button', { name, exact: true })
const projects = (page: Page) => page.getByRole('dialog', { name: 'Projects' })
const beat = (page: Page): Promise<number> => page.evaluate(() => globalThis.oleaje.live().beat)

async function openByName(page: Page, name: string): Promise<void> {
  await page.keyboard.press('p')
  await projects(page).getByRole('button', { name, exact: true }).first().click()
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue(name)
}
async function play(page: Page): Promise<void> {
  await button(page, 'Play').click()
  await expect(button(page, 'Stop')).toBeVisible()
  await page.waitForFunction(
    () =>
      globalThis.oleaje.value(`peak:track:${globalThis.oleaje.project()?.tracks.at(-1)?.id ?? ''}`) > 0.005,
  )
}

test('opening the project that is open changes nothing, even twice at once', async ({ page }) => {
  await open(page)
  const before = await project(page)
  await page.keyboard.press('p')
  await page.evaluate(() => {
    const again = Array.from(document.querySelectorAll<HTMLButtonElement>('[role=dialog] button')).filter(
      (b) => b.textContent === 'Night Ferry',
    )
    for (const b of [...again, ...again]) b.click()
  })
  await expect(projects(page)).toBeHidden()
  await expect(page.getByRole('alert')).toBeHidden()
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  expect(await project(page)).toEqual(before)
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('PageUp')
  expect(await project(page)).not.toEqual(before)
})

test('opening another project stops the one that plays, and the button says so', async ({ page }) => {
  await open(page)
  await play(page)
  await openByName(page, 'Night Ferry: ways of moving')
  await expect(button(page, 'Play')).toBeVisible()
  const at = await beat(page)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:mix'))).toBeLessThan(0.001)
  expect(await beat(page)).toBe(at)
  await play(page)
})

const ROUNDS = process.env.OLEAJE_LONG ? 100 : 10
test(
  `projects exchanged ${ROUNDS} times while playing: state true, memory flat, no context or lock lost`,
  alone,
  async ({ page }) => {
    test.setTimeout(ROUNDS * 6000 + 60_000)
    await countContexts(page)
    await open(page)
    const session = await page.context().newCDPSession(page)
    const heap = async (): Promise<number> => {
      await session.send('HeapProfiler.collectGarbage')
      return (await session.send('Runtime.getHeapUsage')).usedSize
    }
    const names = ['Night Ferry: ways of moving', 'Night Ferry: ways of colouring', 'Night Ferry']
    const sizes: number[] = []
    for (let k = 0; k < ROUNDS; k++) {
      await button(page, 'Play').click()
      await expect(button(page, 'Stop')).toBeVisible()
      await openByName(page, names[k % names.length] ?? '')
      await expect(button(page, 'Play')).toBeVisible()
      await expect(page.getByTestId('save-state')).toHaveText('saved')
      await expect(page.getByRole('alert')).toBeHidden()
      if (k % names.length === names.length - 1) sizes.push(await heap())
    }
    expect(await page.evaluate(() => globalThis.contexts.size)).toBe(1)
    // the first rounds fill caches; from then on nothing grows
    const first = sizes[1] ?? 0
    expect((sizes[sizes.length - 1] ?? 0) / first).toBeLessThan(1.15)
    await play(page)
  },
)

test('hearing one track alone ends with that track, and with its project', async ({ page }) => {
  await open(page)
  await button(page, 'Solo Deck kit').click()
  await page
    .getByRole('button', { name: /^Deck kit/ })
    .first()
    .click()
  await menu(page, /^Actions for/, 'Remove track', '[data-region=tracks]')
  await expect(page.getByText('Heard now:').or(page.getByText(/track Deck kit/))).toBeHidden()
  await play(page)
  await button(page, 'Solo Fog pad').click()
  await openByName(page, 'Night Ferry: ways of colouring')
  await openByName(page, 'Night Ferry')
  await expect(button(page, 'Solo Fog pad')).toHaveAttribute('aria-pressed', 'false')
  await play(page)
})

test('a sound that cannot be fetched leaves the others and the project alone', async ({ page }) => {
  let broken = 0
  await page.route('**/demo/*.wav', (route) => (broken++ === 0 ? route.abort() : route.continue()))
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('Missing sound')
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Night Ferry')
  await play(page)
})

test.describe('sounds that never come', () => {
  // a service worker would fetch them past the route
  test.use({ serviceWorkers: 'block' })

  test('Play that waits for sounds can be taken back, and a dead worker does not keep it waiting', async ({
    page,
  }) => {
    await page.route('**/demo/*.wav', () => {})
    await page.goto('/')
    await expect(page.getByTestId('save-state')).toHaveText('saved')
    // a page that has painted nothing yet drops keys
    await page.waitForFunction(
      () =>
        document.documentElement.dataset.keys === 'heard' &&
        performance.getEntriesByName('first-contentful-paint').length > 0,
    )
    await page.evaluate(
      () => new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted))),
    )
    await button(page, 'Play').click()
    await expect(button(page, 'Cancel')).toBeVisible()
    await page.keyboard.press('Space')
    await expect(button(page, 'Play')).toBeVisible()
  })
})

test('a worker that dies is told of in a sentence, and the next one does the work', async ({ page }) => {
  await page.addInitScript(() => {
    const Real = globalThis.Worker
    let made = 0
    globalThis.Worker = class extends Real {
      constructor(url: string | URL, options?: WorkerOptions) {
        super(url, options)
        if (made++ === 0) setTimeout(() => this.dispatchEvent(new ErrorEvent('error')), 30)
      }
    }
  })
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('Missing sound')
  await button(page, 'Dismiss').click()
  await drop(
    page,
    'buoy.wav',
    writeWav(
      {
        sampleRate: 44_100,
        channels: [Float32Array.from({ length: 9000 }, (_, i) => 0.3 * Math.sin(i / 11))],
      },
      24,
    ),
  )
  await expect(page.getByRole('button', { name: /^buoy/ }).first()).toBeVisible()
})

test(
  'an engine that cannot start leaves no audio context behind, however often Play is pressed',
  alone,
  async ({ page }) => {
    await countContexts(page)
    await page.addInitScript(() => {
      AudioWorklet.prototype.addModule = () => Promise.reject(new Error('No worklets today.'))
    })
    await page.goto('/')
    await expect(page.getByTestId('save-state')).toHaveText('saved')
    for (let k = 0; k < 4; k++) {
      await button(page, 'Play').click()
      await expect(page.getByRole('alert')).toContainText('could not start')
      await expect(button(page, 'Play')).toBeVisible()
    }
    await expect.poll(() => page.evaluate(() => globalThis.contexts.size)).toBe(0)
  },
)

/** A mono AIFF file of 16 bits at 44.1 kHz. */
function aiff(samples: readonly number[]): Uint8Array {
  const bytes = new Uint8Array(54 + 2 * samples.length)
  const view = new DataView(bytes.buffer)
  const tag = (at: number, text: string): void =>
    [...text].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)))
  tag(0, 'FORM')
  view.setUint32(4, bytes.length - 8)
  tag(8, 'AIFF')
  tag(12, 'COMM')
  view.setUint32(16, 18)
  view.setUint16(20, 1)
  view.setUint32(22, samples.length)
  view.setUint16(26, 16)
  view.setUint16(28, 16383 + 15)
  view.setUint32(30, 44_100 * 2 ** 16)
  tag(38, 'SSND')
  view.setUint32(42, 8 + 2 * samples.length)
  samples.forEach((x, i) => view.setInt16(54 + 2 * i, Math.round(x * 32_767)))
  return bytes
}

test('an empty project offers shipped sounds, a file and the input; AIFF is read; removing a project gives its room back', async ({
  page,
}) => {
  const kept = (): Promise<number> =>
    page.evaluate(
      () =>
        new Promise((resolve) => {
          const request = indexedDB.open('oleaje')
          request.onsuccess = () => {
            const count = request.result.transaction('audio').objectStore('audio').count()
            count.onsuccess = () => {
              request.result.close()
              resolve(count.result)
            }
          }
        }),
    )
  await open(page)
  await page.keyboard.press('p')
  await button(page, 'New').click()
  await expect(page.getByRole('heading', { name: 'An empty project' })).toBeVisible()
  for (const way of ['Sound from a file…', 'Live input', 'Test signals'])
    await expect(button(page, way)).toBeVisible()
  await button(page, 'Preview Rope guitar').click()
  await expect(button(page, 'Preview Rope guitar')).toHaveAttribute('aria-pressed', 'true')
  await button(page, 'Take Rope guitar').click()
  await expect
    .poll(async () => (await project(page)).tracks.map((t) => t.name))
    .toEqual(['Rope guitar', 'Mix'])
  await play(page)
  const before = await kept()
  await drop(page, 'horn.aif', aiff(Array.from({ length: 20_000 }, (_, i) => 0.4 * Math.sin(i / 17))))
  await expect(page.getByRole('button', { name: /^horn/ }).first()).toBeVisible()
  expect(await kept()).toBe(before + 1)
  await page.getByRole('textbox', { name: 'Project name' }).fill('Throwaway')
  await page.keyboard.press('Tab')
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await openByName(page, 'Night Ferry')
  await page.keyboard.press('p')
  // another tab that looks for unused sounds meanwhile leaves those alone that may still be taken back here
  const other = await page.context().newPage()
  await open(other)
  await other.keyboard.press('p')
  await projects(other).getByRole('button', { name: 'New' }).click()
  await expect.poll(async () => (await project(other)).name).toBe('Untitled')
  await page.bringToFront()
  await page.evaluate(
    () =>
      new Promise<void>((resolve) => {
        const request = indexedDB.open('oleaje')
        request.onsuccess = () => {
          const change = request.result.transaction('audio', 'readwrite')
          const audio = change.objectStore('audio')
          audio.openCursor().onsuccess = (e) => {
            const at = (e.target as IDBRequest<IDBCursorWithValue | null>).result
            at?.update({ ...at.value, saved: 0 })
            at?.continue()
          }
          change.oncomplete = () => {
            request.result.close()
            resolve()
          }
        }
      }),
  )
  await projects(page)
    .getByRole('listitem')
    .filter({ hasText: 'Throwaway' })
    .getByRole('button', { name: 'Remove' })
    .click()
  await expect(page.getByText('“Throwaway” was removed.')).toBeVisible()
  await drop(other, 'bell.aif', aiff(Array.from({ length: 9000 }, (_, i) => 0.3 * Math.sin(i / 23))))
  await expect.poll(kept).toBe(before + 2)
  // its search comes four seconds after: that nothing went can only be waited for, and the offer here lasts
  // twelve
  await other.waitForTimeout(5500)
  await expect(page.getByText('“Throwaway” was removed.')).toBeVisible()
  expect(await kept()).toBe(before + 2)
  await other.close()
  await expect.poll(kept).toBe(before + 1)
})

test('a project that would take too much opens whole, plays what is within, and says what is not heard; enough of it removed, all is', async ({
  page,
}) => {
  await open(page)
  const p = structuredClone(newProject('Skerries'))
  const track = structuredClone(newTrack('Pad', newSource('tone'), 'pad'))
  track.a.nodes = Array.from({ length: 30 }, (_, i) => newEffect('stutter', {}, `e${i}`))
  p.tracks.unshift(track)
  await drop(page, 'skerries.json', Buffer.from(JSON.stringify(p)))
  await expect(page.getByRole('status').filter({ hasText: 'are bypassed' })).toContainText(
    /would take 1,9\d\d MB of memory.*1,500 MB are available.* 7 of its effects and modulators/,
  )
  expect((await project(page)).tracks[0]?.a.nodes).toHaveLength(30)
  await play(page)
  // the first of them is there, the last was never made
  const peak = (node: string): Promise<number> =>
    page.evaluate((key) => globalThis.oleaje.value(key), `peak:node:${node}`)
  await expect.poll(() => peak('e0')).toBeGreaterThan(0.001)
  // what was left out is not there at all
  expect(await peak('e29')).toBeNaN()
  for (let n = 0; n < 7; n++) {
    await page
      .getByLabel('Chart')
      .getByRole('button', { name: /^Stutter/ })
      .first()
      .click()
    await page.keyboard.press('Delete')
  }
  await expect(page.getByRole('status').filter({ hasText: 'are bypassed' })).toHaveCount(0)
  await expect(button(page, 'Stop')).toBeVisible()
  await expect.poll(() => peak('e29')).toBeGreaterThan(0.001)
})

test('the longest song that is possible is drawn by what can be seen of it', async ({ page }) => {
  await open(page)
  const p = structuredClone(newProject('Skerries'))
  const track = structuredClone(newTrack('Pad', newSource('tone'), 'pad'))
  track.line = {
    length: 1 / 64,
    notes: [{ start: 0, length: 0.01, pitch: 60, velocity: 1 }],
    bend: [],
    pressure: [],
  }
  p.tracks.unshift(track)
  p.loop = { on: true, start: 0, end: 100_000 }
  await drop(page, 'skerries.json', Buffer.from(JSON.stringify(p)))
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Skerries')
  for (const key of ['t', 'b', 't']) {
    const began = Date.now()
    await page.locator('body').press(key)
    await expect(page.getByRole('link', { name: key === 't' ? 'Timeline' : 'Bench' })).toHaveAttribute(
      'aria-current',
      'page',
    )
    await page.evaluate(
      () =>
        new Promise((done) => {
          requestAnimationFrame(() => requestAnimationFrame(done))
        }),
    )
    expect(Date.now() - began).toBeLessThan(3000)
  }
})

test('the first loop of an empty project offers its tempo; a starting chain brings its sound, and is previewed', async ({
  page,
}) => {
  await open(page, empty('Skerries'))
  await page.getByRole('button', { name: 'Take Rope guitar' }).click()
  const offer = page.getByRole('button', { name: 'Set song tempo to 96 bpm' })
  await expect(page.getByText('Rope guitar runs at 96 bpm.')).toBeVisible()
  await offer.click()
  await expect.poll(async () => (await project(page)).tempo).toBe(96)
  await expect(offer).toBeHidden()

  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('button', { name: 'Starting chains' }).click()
  await page.getByRole('button', { name: 'Preview Cloud of taps' }).click()
  await expect(page.getByRole('button', { name: 'Preview Cloud of taps' })).toHaveText('Stop')
  await page.getByRole('button', { name: 'Take Cloud of taps' }).click()
  await expect.poll(async () => (await project(page)).tracks.map((t) => t.name)).toContain('Cloud of taps')
  const p = await project(page)
  const cloud = p.tracks.find((t) => t.name === 'Cloud of taps')
  expect(cloud?.a.nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind))).toEqual(['taps'])
  expect(p.links.filter((l) => cloud?.modulators.some((m) => m.id === l.source)).length).toBeGreaterThan(0)
  await expect(page.getByRole('dialog')).toHaveCount(0)
  // a second loop offers nothing
  await expect(offer).toBeHidden()
  await page.keyboard.press('Space')
  await expect
    .poll(() => page.evaluate((k) => globalThis.oleaje.value(k), `peak:track:${cloud?.id ?? ''}`))
    .toBeGreaterThan(0.001)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await project(page)).tracks.length).toBe(2)
})
