import type { Page } from '@playwright/test'
import { strToU8, zipSync } from 'fflate'
import { writeWav } from '@oleaje/core/formats/wav'
import { drop, menu, open, project } from './app'
import { alone, expect, test } from './fixtures'

const rename = async (page: Page, name: string): Promise<void> => {
  await page.getByRole('textbox', { name: 'Project name' }).fill(name)
  await page.keyboard.press('Enter')
}

test('after a reload everything is as it was, history included', async ({ page }) => {
  await open(page)
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('PageUp')
  await rename(page, 'Night Ferry II')
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  const before = await project(page)
  await page.reload()
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Night Ferry II')
  expect(await project(page)).toEqual(before)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Night Ferry')
})

test('what is being typed stays while a save ends, and Escape takes it back', async ({ page }) => {
  await open(page)
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('PageUp')
  const name = page.getByRole('textbox', { name: 'Project name' })
  await name.fill('')
  // the save of what was edited before begins and ends while this is typed
  await name.pressSequentially('Night Ferry III', { delay: 80 })
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await expect(name).toHaveValue('Night Ferry III')
  await name.press('Escape')
  await expect(name).toHaveValue('Night Ferry')
  expect((await project(page)).name).toBe('Night Ferry')
})

test('a page killed in mid-edit loses no more than its last second', alone, async ({ context }) => {
  const page = await context.newPage()
  await open(page)
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('End')
  await expect(page.getByTestId('save-state')).toHaveText('saved', { timeout: 1000 })
  await page.getByRole('slider', { name: 'Resonance, Filter' }).press('PageUp')
  const session = await context.newCDPSession(page)
  void session.send('Page.crash').catch(() => {})
  await page.waitForEvent('crash')
  const again = await context.newPage()
  await open(again)
  await expect(again.getByRole('slider', { name: 'Cutoff, Filter' })).toHaveAttribute(
    'aria-valuetext',
    '20.0 kHz',
  )
})

test(
  'edits that go on are saved while they do: a page killed among them loses no more than its last second',
  alone,
  async ({ context }) => {
    const page = await context.newPage()
    await open(page)
    const resonance = page.getByRole('slider', { name: 'Resonance, Filter' })
    await resonance.press('Home')
    // one edit every 0.2 to 0.3 s, none of them ever older than a second when the page goes
    const values: { at: number; value: number }[] = []
    for (let k = 0; k < 24; k++) {
      await resonance.press('ArrowRight')
      values.push({ at: Date.now(), value: Number(await resonance.getAttribute('aria-valuenow')) })
      await page.evaluate(
        () =>
          new Promise((done) => {
            setTimeout(done, 230)
          }),
      )
    }
    const session = await context.newCDPSession(page)
    const killed = Date.now()
    void session.send('Page.crash').catch(() => {})
    await page.waitForEvent('crash')
    const again = await context.newPage()
    await open(again)
    const kept = Number(
      await again.getByRole('slider', { name: 'Resonance, Filter' }).getAttribute('aria-valuenow'),
    )
    const due = values.filter((v) => v.at < killed - 1000)
    expect(kept).toBeGreaterThanOrEqual(due[due.length - 1]?.value ?? 0)
  },
)

test('a second tab on the same project is read-only and says why', async ({ context }) => {
  const first = await context.newPage()
  await open(first)
  const second = await context.newPage()
  await open(second)
  await expect(second.getByTestId('save-state')).toHaveText('read-only')
  await expect(second.getByRole('alert')).toContainText('open in another tab')
  const before = await project(second)
  await second.getByRole('slider', { name: 'Cutoff, Filter' }).press('End')
  expect(await project(second)).toEqual(before)
  await first.getByRole('slider', { name: 'Cutoff, Filter' }).press('End')
  await expect(first.getByTestId('save-state')).toHaveText('saved')
})

test('a dropped sound becomes a track; a saved bundle comes back the same', async ({ page }) => {
  await open(page)
  const tone = Float32Array.from({ length: 44_100 }, (_, i) => 0.3 * Math.sin(i / 20))
  await drop(page, 'bell buoy.wav', writeWav({ sampleRate: 44_100, channels: [tone] }, 16))
  await expect.poll(async () => (await project(page)).tracks.length).toBe(9)
  await expect(page.getByRole('button', { name: 'bell buoy', exact: true })).toBeVisible()
  const saved = await project(page)
  const [download] = await Promise.all([page.waitForEvent('download'), menu(page, 'Project', 'Save to file')])
  const { readFileSync } = await import('node:fs')
  await drop(page, 'back.zip', readFileSync(await download.path()))
  await expect.poll(async () => (await project(page)).id).not.toBe(saved.id)
  expect({ ...(await project(page)), id: saved.id }).toEqual(saved)
})

const bad: [string, Uint8Array, RegExp][] = [
  ['words.wav', strToU8('no sound at all'), /“words.wav” was not imported.*finds no sound in it/],
  [
    'cut.wav',
    writeWav({ sampleRate: 48_000, channels: [new Float32Array(4800)] }, 16).subarray(0, 900),
    /truncated/,
  ],
  ['nothing.wav', new Uint8Array(0), /it is empty/],
  ['broken.zip', strToU8('PK nonsense'), /cannot be unpacked|not a bundle|no project/],
  ['climbing.zip', zipSync({ '../x': new Uint8Array(3) }), /forbidden name/],
  ['future.json', strToU8(JSON.stringify({ format: 'oleaje-project', version: 7 })), /newer Oleaje/],
  ['proto.json', strToU8('{"format":"oleaje-project","version":1,"__proto__":{}}'), /forbidden name/],
]
test('bad files get their sentence and change nothing', async ({ page }) => {
  await open(page)
  const before = await project(page)
  for (const [name, bytes, sentence] of bad) {
    await drop(page, name, bytes)
    await expect(page.getByRole('alert')).toContainText(sentence)
    await page.getByRole('button', { name: 'Dismiss' }).click()
  }
  expect(await project(page)).toEqual(before)
})

test('a gesture ends when its gauge goes or its pointer is lost: what comes after is another step', async ({
  page,
}) => {
  await open(page)
  const cutoff = page.getByRole('slider', { name: 'Cutoff, Filter' })
  const value = (): Promise<string | null> => cutoff.getAttribute('aria-valuetext')
  const undo = page.getByRole('button', { name: 'Undo' })
  const [start, grip] = [await value(), await cutoff.boundingBox()]
  if (!grip) throw new Error('The gauge is not drawn.')
  const at = { x: grip.x + grip.width / 2, y: grip.y + grip.height / 2 }

  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + 23, at.y, { steps: 3 })
  await expect.poll(value).not.toBe(start)
  const dragged = await value()
  await page.evaluate(() => dispatchEvent(new Event('blur')))
  await page.mouse.move(at.x - 41, at.y, { steps: 3 })
  expect(await value()).toBe(dragged)
  await page.mouse.up()
  await page.getByRole('slider', { name: 'Resonance, Filter' }).press('PageUp')
  await undo.click()
  expect(await value()).toBe(dragged)
  await undo.click()
  expect(await value()).toBe(start)

  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + 23, at.y, { steps: 3 })
  await expect.poll(value).not.toBe(start)
  // the gauge goes while it is held: another track is shown
  const show = (id: string): Promise<void> =>
    page.evaluate(
      (track) => document.querySelector<HTMLElement>(`[data-track="${track}"] button`)?.click(),
      id,
    )
  await show('mix')
  await expect(cutoff).toHaveCount(0)
  await page.mouse.up()
  await rename(page, 'Night Ferry II')
  await undo.click()
  await show('pad')
  await expect(cutoff).toHaveAttribute('aria-valuetext', dragged ?? '')
})

test('a history of another version of the file is left behind, its project is not', async ({ page }) => {
  await open(page)
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('PageUp')
  await rename(page, 'Night Ferry II')
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.evaluate(
    () =>
      new Promise<void>((done) => {
        const request = indexedDB.open('oleaje')
        request.onsuccess = () => {
          const tx = request.result.transaction('history', 'readwrite')
          const all = tx.objectStore('history').getAll()
          all.onsuccess = () => {
            for (const entry of all.result as { version: number }[])
              tx.objectStore('history').put({ ...entry, version: entry.version - 1 })
          }
          tx.oncomplete = () => {
            request.result.close()
            done()
          }
        }
      }),
  )
  await page.reload()
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Night Ferry II')
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
})

test('storage that fails one time in five: nothing is said to be saved that is not, and all is once it works again', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const put = IDBObjectStore.prototype.put
    let calls = 0
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...args: Parameters<typeof put>) {
      if ((globalThis as { failing?: boolean }).failing && ++calls % 5 === 0)
        throw new DOMException('no room', 'QuotaExceededError')
      return put.apply(this, args)
    }
  })
  await open(page)
  const state = page.getByTestId('save-state')
  await expect(state).toHaveText('saved')
  await page.evaluate(() => {
    ;(globalThis as { failing?: boolean }).failing = true
  })
  const gauge = page.getByRole('slider', { name: 'Cutoff, Filter' })
  /**
   * What the header says, and whether what is kept is what is open, with a history that is of the same
   * moment.
   */
  const look = (): Promise<{ said: string; same: boolean; paired: boolean }> =>
    page.evaluate(async () => {
      const db = await new Promise<IDBDatabase>((resolve) => {
        indexedDB.open('oleaje').onsuccess = (e) => resolve((e.target as IDBOpenDBRequest).result)
      })
      const id = globalThis.oleaje.project()?.id ?? ''
      const said = document.querySelector('[data-testid=save-state]')?.textContent ?? ''
      const now = JSON.stringify(globalThis.oleaje.project())
      const tx = db.transaction(['projects', 'history'])
      const get = (store: string): Promise<unknown> =>
        new Promise((resolve) => {
          tx.objectStore(store).get(id).onsuccess = (e) => resolve((e.target as IDBRequest).result)
        })
      const [kept, history] = (await Promise.all([get('projects'), get('history')])) as [
        { project: { tracks: { id: string; a: { nodes: { params: Record<string, number> }[] } }[] } },
        { undo: unknown[] },
      ]
      db.close()
      const cutoff = kept.project.tracks.find((t) => t.id === 'pad')?.a.nodes[0]?.params.cutoff
      return {
        said,
        same: JSON.stringify(kept.project) === now,
        paired: history.undo.length > 0 === (cutoff !== 800),
      }
    })
  const told = new Set<string>()
  for (let i = 0; i < 40; i++) {
    await gauge.press(i % 2 ? 'ArrowRight' : 'PageUp')
    // the pace of a hand is what is tried
    await page.waitForTimeout([30, 130, 370, 600][i % 4] ?? 30)
    const { said, same, paired } = await look()
    told.add(said)
    if (said === 'saved') expect(same, `after ${i} edits`).toBe(true)
    expect(paired, `after ${i} edits`).toBe(true)
  }
  expect([...told].join()).toContain('not saved')
  await page.evaluate(() => {
    ;(globalThis as { failing?: boolean }).failing = false
  })
  await expect(state).toHaveText('saved')
  expect((await look()).same).toBe(true)
})

test('a project that could not be saved is still there after another was opened, and is saved when there is room again', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const put = IDBObjectStore.prototype.put
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...args: Parameters<typeof put>) {
      if ((globalThis as { failing?: boolean }).failing)
        throw new DOMException('no room', 'QuotaExceededError')
      return put.apply(this, args)
    }
  })
  await open(page)
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.evaluate(() => {
    ;(globalThis as { failing?: boolean }).failing = true
  })
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).press('End')
  await expect(page.getByTestId('save-state')).toContainText('not saved')
  await page.keyboard.press('p')
  await page.getByRole('button', { name: 'New', exact: true }).click()
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Untitled')
  await page.keyboard.press('p')
  await page.getByRole('dialog').getByRole('button', { name: 'Night Ferry', exact: true }).first().click()
  await expect(page.getByRole('slider', { name: 'Cutoff, Filter' })).toHaveAttribute(
    'aria-valuetext',
    '20.0 kHz',
  )
  await page.evaluate(() => {
    ;(globalThis as { failing?: boolean }).failing = false
  })
  await page.getByRole('slider', { name: 'Resonance, Filter' }).press('PageUp')
  await expect(page.getByTestId('save-state')).toHaveText('saved')
  await page.reload()
  await expect(page.getByRole('slider', { name: 'Cutoff, Filter' })).toHaveAttribute(
    'aria-valuetext',
    '20.0 kHz',
  )
})

test('a project that is open in one tab is not removed by another', async ({ context, page }) => {
  await open(page)
  const other = await context.newPage()
  await open(other)
  await other.keyboard.press('p')
  await other.getByRole('button', { name: 'New', exact: true }).click()
  await expect(other.getByRole('textbox', { name: 'Project name' })).toHaveValue('Untitled')
  await other.keyboard.press('p')
  await other.getByRole('button', { name: 'Remove Night Ferry', exact: true }).first().click()
  await other.keyboard.press('Escape')
  await expect(other.getByRole('alert')).toContainText('open in another tab')
  await other.keyboard.press('p')
  await expect(other.getByRole('button', { name: 'Remove Night Ferry', exact: true })).toBeVisible()
})
