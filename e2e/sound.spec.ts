import { apply } from '@oleaje/core/project/edit'
import { addTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { targetAt } from '@oleaje/core/project/param-path'
import { drop, liveAgainstRender, open, project } from './app'
import { expect, test } from './fixtures'

test.use({ rehearsal: true })

test('what the worklet plays in Chromium and what Node renders are identical in every bit', async ({
  page,
}) => {
  await open(page)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.project()?.tracks.length)).toBe(8)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:pad')))
    .toBeGreaterThan(0.001)
  const { different, loudest } = await liveAgainstRender(page, 4)
  expect(loudest).toBeGreaterThan(0.1)
  expect(different).toBe(0)
})

test('press Space and the demo moves: levels flow, dots swim in their ranges, the song goes on', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:node:pad-reverb')))
    .toBeGreaterThan(0.001)
  const places = new Set<number>()
  await expect
    .poll(async () => {
      places.add(await page.evaluate(() => globalThis.oleaje.value('live:pad-filter.cutoff')))
      return places.size
    })
    .toBeGreaterThan(5)
  const filter = (await project(page)).tracks.find((t) => t.id === 'pad')
  expect(filter).toBeDefined()
  for (const place of places) {
    expect(place).toBeGreaterThan(0.4)
    expect(place).toBeLessThan(0.75)
  }
  const beat = await page.evaluate(() => globalThis.oleaje.live().beat)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(beat)
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
})

test('a live input, simulated and from a device, reaches its chain', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: 'Line in', exact: true }).click()
  await page.getByRole('button', { name: 'Turn input on' }).click()
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:source:line')))
    .toBeGreaterThan(0.005)
  await page.getByRole('button', { name: 'Input on' }).click()
  await page.getByRole('button', { name: /simulated player/ }).click()
  await page.getByRole('option', { name: 'microphone' }).click()
  await page.getByRole('button', { name: 'Turn input on' }).click()
  // the fake device beeps once a second
  await page.waitForFunction(() => globalThis.oleaje.value('peak:source:line') > 0.05, undefined, {
    polling: 10,
  })
})

test('Play pressed before the sounds are there plays as soon as they are, and a panel that was open before shows them', async ({
  page,
}) => {
  let come = (): void => {}
  const there = new Promise<void>((resolve) => {
    come = resolve
  })
  await page.route('**/demo/*.wav', async (route) => {
    await there
    await route.continue()
  })
  await page.goto('/')
  await page
    .getByRole('button', { name: /^Rope guitar/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await expect(page.getByRole('img', { name: 'Source of Rope guitar' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'find tempo' })).toBeDisabled()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  come()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.2)
  await expect(page.getByRole('button', { name: 'find tempo' })).toBeEnabled()
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:mix')))
    .toBeGreaterThan(0.01)
})

test('a project of another rate plays at its own, and as Node renders it', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  const track = newTrack('Fog horn', newSource('tone'), 'horn')
  track.a.nodes = [newEffect('filter', {}, 'horn-filter')]
  let skerries = { ...newProject('Skerries'), sampleRate: 44_100 }
  for (const edit of [
    addTrack(track),
    addModulator('horn', 'lfo', { id: 'swell' }),
    addLink('swell', targetAt('horn-filter', 'cutoff'), 0.3, 0.7),
  ])
    skerries = apply(skerries, edit).next as typeof skerries
  await drop(page, 'skerries.json', Buffer.from(JSON.stringify(skerries)))
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Skerries')
  const { different, loudest } = await liveAgainstRender(page, 2)
  expect(loudest).toBeGreaterThan(0.01)
  expect(different).toBe(0)
})

test('with a longer buffer the sound goes on where it was, and the choice is kept', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(2)
  await page.getByRole('button', { name: /^CPU/ }).click()
  const panel = page.getByLabel('CPU and output')
  await expect(panel).toContainText(/Output latency \d+ ms; .* since playback started/)
  const before = Number(/latency (\d+) ms/.exec(await panel.innerText())?.[1])
  const beat = await page.evaluate(() => globalThis.oleaje.live().beat)
  await panel.getByRole('radio', { name: 'short' }).press('ArrowRight')
  await panel.getByRole('radio', { name: 'middle' }).press('ArrowRight')
  await expect(panel.getByRole('radio', { name: 'long' })).toBeChecked()
  await expect
    .poll(async () => Number(/latency (\d+) ms/.exec(await panel.innerText())?.[1]))
    .toBeGreaterThan(before + 50)
  await expect
    .poll(() => page.evaluate(() => globalThis.oleaje.value('peak:track:mix')))
    .toBeGreaterThan(0.01)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(beat)
  await page.reload()
  await page.getByRole('button', { name: /^CPU/ }).click()
  await expect(panel.getByRole('radio', { name: 'long' })).toBeChecked()
})

test('a choice that is made just before the page is left is kept', async ({ page }) => {
  await open(page)
  const panel = page.getByLabel('CPU and output')
  for (const choice of ['middle', 'long', 'short', 'middle']) {
    await page.getByRole('button', { name: /^CPU/ }).click()
    await panel.getByRole('radio', { name: choice }).click()
    await page.reload()
    await page.getByRole('button', { name: /^CPU/ }).click()
    await expect(panel.getByRole('radio', { name: choice })).toBeChecked()
    await page.getByRole('button', { name: /^CPU/ }).click()
  }
})
