import { readFileSync } from 'node:fs'
import { writeWav } from '@oleaje/core/formats/wav'
import { drop, menu, open, project } from './app'
import { expect, sharing as test } from './fixtures'

/** All that the browser keeps, without the times at which it was. */
const kept = (): Promise<unknown> =>
  new Promise((resolve, reject) => {
    const asked = indexedDB.open('oleaje')
    asked.onerror = () => reject(new Error('no database'))
    asked.onsuccess = () => {
      const db = asked.result
      const found: Record<string, unknown[]> = {}
      const names = ['projects', 'history', 'audio', 'kept']
      const tx = db.transaction(names)
      for (const name of names) {
        const all = tx.objectStore(name).getAll()
        all.onsuccess = () => {
          found[name] = (all.result as Record<string, unknown>[]).map((x) => ({ ...x, saved: 0, opened: 0 }))
        }
      }
      tx.oncomplete = () => {
        db.close()
        const plain = (_: string, v: unknown): unknown =>
          v instanceof Float32Array
            ? [v.length, ...v.slice(0, 50)]
            : typeof v === 'object' && v !== null && !Array.isArray(v)
              ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
              : v
        resolve(JSON.parse(JSON.stringify(found, plain)))
      }
    }
  })

// it opens the app three times and packs all of its sounds
test.setTimeout(240_000)
test('everything is exported, removed, imported, and is as it was; what is here in another state comes as a copy', async ({
  page,
}) => {
  await open(page)
  await drop(
    page,
    'halyard.wav',
    writeWav(
      {
        sampleRate: 48_000,
        channels: [Float32Array.from({ length: 17_011 }, (_, i) => Math.sin(i / 17) / 2)],
      },
      32,
    ),
  )
  await expect.poll(async () => (await project(page)).tracks.some((t) => t.name === 'halyard')).toBe(true)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByTestId('save-state')).toHaveText(/^saved/)
  const before = (await page.evaluate(kept)) as Record<string, { id?: string; hash?: string }[]>
  await menu(page, 'Project', 'Projects…')
  await expect(page.getByText(/Storage: \d+ MB used/)).toBeVisible()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export everything…' }).click(),
  ])
  const file = readFileSync(await download.path())

  // another page of the same origin, in which nothing runs that keeps something
  await page.goto('/api/health')
  await page.evaluate(
    () =>
      new Promise((resolve) => {
        indexedDB.deleteDatabase('oleaje').onsuccess = resolve
        localStorage.clear()
        sessionStorage.clear()
      }),
  )
  await open(page)
  const fresh = (await project(page)).id
  await drop(page, 'everything.zip', file)
  await expect.poll(async () => JSON.stringify(await page.evaluate(kept)).includes('"halyard"')).toBe(true)
  await expect(page.getByTestId('save-state')).toHaveText(/^saved/)
  const after = (await page.evaluate(kept)) as typeof before
  // but for the demo that was opened here meanwhile
  after.projects = after.projects?.filter((p) => p.id !== fresh) ?? []
  after.history = after.history?.filter((p) => p.id !== fresh) ?? []
  // and for sounds that the demo here has by itself
  const known = new Set(before.audio?.map((a) => a.hash))
  after.audio = after.audio?.filter((a) => known.has(a.hash)) ?? []
  expect(after).toEqual(before)

  // brought back once more, nothing is there twice; edited, it comes as a copy
  await drop(page, 'everything.zip', file)
  await menu(page, 'Project', 'Projects…')
  await expect(page.getByRole('dialog').getByRole('button', { name: /^Remove Night Ferry$/ })).toHaveCount(2)
})
