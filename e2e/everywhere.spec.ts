import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { liveAgainstRender, menu, open, project } from './app'
import { alone, expect, test } from './fixtures'

test('a browser that refuses the project’s rate plays it all the same, and the engine gives the same bits', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const Real = AudioContext
    class Refusing extends Real {
      constructor(options?: AudioContextOptions) {
        if (options?.sampleRate !== undefined)
          throw new DOMException('this rate is not supported', 'NotSupportedError')
        super({ ...options, sampleRate: 44_100 })
      }
    }
    globalThis.AudioContext = Refusing
  })
  await open(page)
  expect((await project(page)).sampleRate).toBe(48_000)
  // it plays when its sounds are there
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
  await page.keyboard.press('Space')
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.1)
  expect(different).toBe(0)
})

test('an output whose clock stands still is said, with a way to try again; it plays when the clock runs', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const own = Object.getOwnPropertyDescriptor(BaseAudioContext.prototype, 'currentTime')
    Object.defineProperty(BaseAudioContext.prototype, 'currentTime', {
      get(this: BaseAudioContext): number {
        return Reflect.get(globalThis, 'clockStands') ? 7.37 : (own?.get?.call(this) as number)
      },
    })
    Reflect.set(globalThis, 'clockStands', true)
  })
  await open(page)
  await page.keyboard.press('Space')
  await expect(page.getByRole('alert')).toContainText(
    'No audio output. Check your output device, then click Try again.',
  )
  await page.keyboard.press('b')
  await page.keyboard.press('t')
  // on every view
  await expect(page.getByRole('alert')).toContainText('No audio output')
  // opened again it still stands, and then it runs by itself
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByRole('alert')).toContainText('No audio output')
  await page.evaluate(() => Reflect.set(globalThis, 'clockStands', false))
  await expect(page.getByRole('alert')).toHaveCount(0)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
})

test('without shared memory, live values come by messages', async ({ page }) => {
  await page.addInitScript(() => {
    Reflect.deleteProperty(globalThis, 'SharedArrayBuffer')
  })
  await open(page)
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(1)
  expect(await page.evaluate(() => globalThis.oleaje.live().blocks)).toBeGreaterThan(100)
})

test('with site data blocked the app opens, plays, and says that nothing is kept', async ({ page }) => {
  await page.addInitScript(() => {
    for (const name of ['localStorage', 'sessionStorage', 'indexedDB'])
      Object.defineProperty(globalThis, name, {
        get: () => {
          throw new DOMException('access is denied', 'SecurityError')
        },
      })
    Reflect.deleteProperty(window, 'showSaveFilePicker')
    Reflect.deleteProperty(window, 'showDirectoryPicker')
  })
  await page.goto('/')
  await page.waitForFunction(
    () => globalThis.oleaje?.project() !== null && document.documentElement.dataset.keys === 'heard',
  )
  await expect(page.getByTestId('save-state')).toHaveText('not saved')
  await expect.poll(() => page.evaluate(() => document.activeElement !== null)).toBe(true)
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
})

test('what is kept of the demo and cannot be read stays as it is, beside a fresh demo', async ({ page }) => {
  await open(page)
  const { id } = await project(page)
  const spoil = (key: string): Promise<unknown> =>
    page.evaluate(
      (k) =>
        new Promise((resolve) => {
          const asked = indexedDB.open('oleaje')
          asked.onsuccess = () => {
            const store = asked.result.transaction('projects', 'readwrite').objectStore('projects')
            const got = store.get(k)
            got.onsuccess = () => {
              store.put({
                ...got.result,
                project: { format: 'oleaje-project', version: 99, mine: 'work of days' },
              }).onsuccess = () => {
                asked.result.close()
                resolve(null)
              }
            }
          }
        }),
      key,
    )
  await spoil(id)
  await page.reload()
  await page.waitForFunction(() => globalThis.oleaje?.project() !== null)
  await expect(page.getByRole('alert')).toContainText('could not be read')
  expect((await project(page)).id).not.toBe(id)
  const kept = await page.evaluate(
    (k) =>
      new Promise<unknown>((resolve) => {
        const asked = indexedDB.open('oleaje')
        asked.onsuccess = () => {
          const got = asked.result.transaction('projects').objectStore('projects').get(k)
          got.onsuccess = () => resolve((got.result as { project: unknown }).project)
        }
      }),
    id,
  )
  expect(kept).toEqual({ format: 'oleaje-project', version: 99, mine: 'work of days' })
  // and the demo asked for by hand is not written over it either
  await menu(page, 'Project', 'Projects…')
  await page
    .getByRole('group', { name: 'Examples' })
    .getByRole('button', { name: 'Night Ferry', exact: true })
    .click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  expect((await project(page)).id).not.toBe(id)
})

test('sounds that are kept under their former names are renamed once, in projects, histories and the shelf, and sound the same', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
  await page.keyboard.press('Space')
  // a step that names a sound
  await menu(page, /^Actions for/, 'Duplicate', '[data-region=tracks]')
  await expect(page.getByTestId('save-state')).toHaveText(/^saved/)
  const names = (
    JSON.parse(readFileSync(join(import.meta.dirname, '../demo/assets/catalogue.json'), 'utf8')) as {
      sounds: { hash: string; formerly: string }[]
    }
  ).sounds
  // as an older Oleaje left it
  const renamed = await page.evaluate(
    (list) =>
      new Promise<number>((resolve, reject) => {
        const asked = indexedDB.open('oleaje')
        asked.onsuccess = () => {
          const db = asked.result
          const tx = db.transaction(['projects', 'history', 'kept', 'audio'], 'readwrite')
          let count = 0
          for (const store of ['projects', 'history', 'kept']) {
            const all = tx.objectStore(store).getAll()
            all.onsuccess = () => {
              for (const record of all.result as unknown[]) {
                let text = JSON.stringify(record)
                for (const { hash, formerly } of list) text = text.replaceAll(hash, formerly)
                tx.objectStore(store).put(JSON.parse(text))
              }
            }
          }
          const sounds = tx.objectStore('audio').getAll()
          sounds.onsuccess = () => {
            for (const sound of sounds.result as { hash: string }[]) {
              const found = list.find((n) => n.hash === sound.hash)
              if (!found) continue
              tx.objectStore('audio').delete(sound.hash)
              tx.objectStore('audio').put({ ...sound, hash: found.formerly })
              count++
            }
          }
          tx.oncomplete = () => {
            db.close()
            resolve(count)
          }
          tx.onerror = () => reject(new Error('not written'))
        }
      }),
    names,
  )
  expect(renamed).toBeGreaterThan(3)
  await page.reload()
  await page.waitForFunction(
    () => globalThis.oleaje?.project() !== null && document.documentElement.dataset.keys === 'heard',
  )
  const hashes = Object.keys((await project(page)).audio)
  expect(hashes.length).toBeGreaterThan(3)
  for (const hash of hashes) expect(hash).toMatch(/^[0-9a-f]{40}$/)
  const kept = await page.evaluate(
    () =>
      new Promise<string>((resolve) => {
        const asked = indexedDB.open('oleaje')
        asked.onsuccess = () => {
          const db = asked.result
          const tx = db.transaction(['projects', 'history', 'kept', 'audio'])
          const texts: string[] = []
          for (const store of ['projects', 'history', 'kept'])
            tx.objectStore(store).getAll().onsuccess = (e) =>
              texts.push(JSON.stringify((e.target as IDBRequest).result))
          tx.objectStore('audio').getAllKeys().onsuccess = (e) =>
            texts.push(JSON.stringify((e.target as IDBRequest).result))
          tx.oncomplete = () => {
            db.close()
            resolve(texts.join())
          }
        }
      }),
  )
  for (const { formerly } of names) expect(kept).not.toContain(formerly)
  // the history leads back, and it sounds as it did
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
  await page.keyboard.press('Space')
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.1)
  expect(different).toBe(0)
})

test(
  'a recording that was running when the page went is found again, up to its last second',
  alone,
  async ({ page, context }) => {
    await open(page)
    await page
      .getByRole('button', { name: /^Rope guitar/ })
      .first()
      .click()
    await page.keyboard.press('Shift+T')
    await expect
      .poll(() => page.evaluate(() => globalThis.oleaje.live().beat), { intervals: [50], timeout: 60_000 })
      .toBeGreaterThan(8)
    const beat = await page.evaluate(() => globalThis.oleaje.live().beat)
    await page.close({ runBeforeUnload: false })
    const next = await context.newPage()
    await next.goto('/')
    await expect(next.getByRole('alert')).toContainText('The recording of Rope guitar was interrupted')
    const { tracks, audio, tempo } = await project(next)
    const take = tracks.find((t) => t.name === 'Rope guitar')?.takes?.[0]
    expect(take).toBeDefined()
    const seconds = (audio[take?.wet ?? '']?.frames ?? 0) / 48_000
    expect(seconds).toBeGreaterThan((beat * 60) / tempo - 1)
  },
)

test('an older tab that holds the database is named, and the page goes on once it is closed', async ({
  page,
  context,
}) => {
  const old = await context.newPage()
  await old.goto('/icon.svg')
  await old.evaluate(
    () =>
      new Promise((resolve) => {
        const asked = indexedDB.open('oleaje', 3)
        asked.onupgradeneeded = () => {
          for (const name of ['projects', 'history', 'kept'])
            asked.result.createObjectStore(name, { keyPath: 'id' })
          asked.result.createObjectStore('audio', { keyPath: 'hash' })
        }
        asked.onsuccess = resolve
      }),
  )
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('Close that tab')
  await old.close()
  await page.waitForFunction(() => globalThis.oleaje.project() !== null)
})

test('where the page is magnified, all of it can be scrolled to, and its pictures stay sharp', async ({
  browser,
}) => {
  // 1280×800 at 200 %: half as many pixels of the page, two of the screen each
  const context = await browser.newContext({ viewport: { width: 640, height: 400 }, deviceScaleFactor: 2 })
  const page = await context.newPage()
  await open(page)
  for (const [role, name] of [
    ['button', 'Play'],
    ['link', 'Shelf'],
    ['link', 'Render'],
  ] as const)
    await expect(async () => {
      const button = page.getByRole(role, { name, exact: true }).first()
      await button.scrollIntoViewIfNeeded()
      const box = await button.boundingBox()
      expect(box && box.x >= 0 && box.y >= 0 && box.x + box.width <= 640 && box.y + box.height <= 400).toBe(
        true,
      )
    }).toPass()
  const blurred = await page.evaluate(() =>
    Array.from(document.querySelectorAll('canvas'))
      .filter((c) => c.clientWidth > 0 && Math.abs(c.width / c.clientWidth - devicePixelRatio) > 0.1)
      .map((c) => c.getAttribute('aria-label')),
  )
  expect(blurred).toEqual([])
  await context.close()
})

test('a finger sets a gauge, and ? shows the keys on a layout where it needs no Shift', async ({
  browser,
}) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, hasTouch: true })
  const page = await context.newPage()
  await open(page)
  const slider = page.getByRole('slider', { name: /volume|level|gain/i }).first()
  await slider.scrollIntoViewIfNeeded()
  const before = await slider.getAttribute('aria-valuenow')
  const box = (await slider.boundingBox())!
  const y = box.y + box.height / 2
  const cdp = await context.newCDPSession(page)
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', x = 0): Promise<unknown> =>
    cdp.send('Input.dispatchTouchEvent', { type, touchPoints: type === 'touchEnd' ? [] : [{ x, y }] })
  await touch('touchStart', box.x + 0.5 * box.width)
  for (const part of [0.6, 0.71, 0.83]) await touch('touchMove', box.x + part * box.width)
  await touch('touchEnd')
  await expect.poll(() => slider.getAttribute('aria-valuenow')).not.toBe(before)
  await page.evaluate(() =>
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '?', code: 'Minus', bubbles: true })),
  )
  await expect(page.getByRole('dialog', { name: 'Keys' })).toHaveCount(1)
  await context.close()
})
