import { appendFileSync, cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { menu, project } from './app'
import { staticHost } from './static-host'
import { expect, test } from './fixtures'

/** The built folder on a plain static host, then without any host. */
test.use({ serviceWorkers: 'allow' })
const built = join(import.meta.dirname, '../.output/public')

/** @param track one that no project opened before has */
const plays = async (page: Page, track = 'pad'): Promise<void> => {
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect
    .poll(() => page.evaluate((id) => globalThis.oleaje.value(`peak:track:${id}`), track))
    .toBeGreaterThan(0.001)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
}
const opened = (page: Page): Promise<unknown> =>
  page.waitForFunction(
    () => document.documentElement.dataset.keys === 'heard' && globalThis.oleaje.project() !== null,
  )

test('a static host serves the app, an update waits and loses nothing, and then no host is needed', async ({
  page,
}) => {
  const folder = mkdtempSync(join(tmpdir(), 'static-'))
  cpSync(built, folder, { recursive: true, filter: (path) => !/\.(br|gz)$/.test(path) })
  const host = await staticHost(folder)
  try {
    await page.goto(host.url)
    await opened(page)
    expect(await page.evaluate(() => crossOriginIsolated)).toBe(false)
    await plays(page)
    await page.waitForFunction(() =>
      navigator.serviceWorker.ready.then((r) => r.active?.state === 'activated'),
    )

    // a new version is offered with a sentence and the last edit is kept: on a first visit, and where the old
    // version serves the page
    for (const tempo of [107, 93.7]) {
      appendFileSync(join(folder, 'sw.js'), `\n// the version of ${tempo}\n`)
      await page.evaluate(async () => void (await (await navigator.serviceWorker.ready).update()))
      await expect(page.getByText('A new version of Oleaje is available.')).toBeVisible()
      await page.getByLabel('Tempo').fill(String(tempo))
      await page.keyboard.press('Enter')
      expect((await project(page)).tempo).toBe(tempo)
      await Promise.all([
        page.waitForEvent('load'),
        page.getByRole('button', { name: 'Reload', exact: true }).click(),
      ])
      await opened(page)
      expect((await project(page)).tempo).toBe(tempo)
    }

    // the host is gone: every view opens, the demo plays, and another demo project opens
    await host.end()
    rmSync(folder, { recursive: true })
    for (const view of ['/timeline', '/links', '/shelf', '/']) {
      await page.goto(host.url + view)
      await opened(page)
    }
    await plays(page)
    await menu(page, 'Project', 'Projects…')
    await page.getByRole('group', { name: 'Examples' }).getByRole('button').nth(1).click()
    await expect(page.getByRole('dialog')).toHaveCount(0)
    await plays(page, 'drifting')
  } finally {
    await host.end().catch(() => {})
  }
})
