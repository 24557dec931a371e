import { heardChain } from '@oleaje/core/project/walk'
import type { Track } from '@oleaje/core/project/schema'
import { open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

test('dice are thrown on a chain with locks, walked back and forth, and undone', async ({ page }) => {
  test.slow()
  await open(page)
  const pad = async (): Promise<Track> => (await project(page)).tracks.find((t) => t.id === 'pad') as Track
  const start = await project(page)
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  await page.getByRole('slider', { name: 'Cutoff, Filter' }).focus()
  await page.keyboard.press('Shift+L')
  await expect(page.getByRole('button', { name: 'Unlock Cutoff for the dice' })).toBeVisible()
  await page.getByRole('button', { name: /^Reverb/ }).focus()
  await page.keyboard.press('Shift+L')
  await page.keyboard.press('Shift+X')
  const panel = page.getByRole('complementary', { name: 'Dice' })
  await expect(panel).toContainText('2 locked')
  expect(await serious(page, { within: 'aside' })).toEqual([])
  const values = new Map(
    start.tracks.flatMap((t) => heardChain(t).nodes).map((n) => [n.id, Object.keys(n.params)]),
  )
  // what the demo leaves at its default is written once it has been thrown
  const stateOf = (t: Track): string =>
    JSON.stringify(heardChain(t).nodes.map((n) => values.get(n.id)?.map((key) => n.params[key])))
  const states: string[] = [stateOf(await pad())]
  for (let n = 1; n <= 3; n++) {
    await panel.getByRole('button', { name: 'Throw', exact: true }).click()
    await expect(panel.getByRole('status')).toHaveText(`Throw ${n} of ${n}`, { timeout: 20_000 })
    states.push(stateOf(await pad()))
  }
  expect(new Set(states).size).toBe(4)
  const nodes = (await pad()).a.nodes
  const before = heardChain(start.tracks.find((t) => t.id === 'pad') as Track).nodes
  const of = (list: typeof nodes, id: string) => list.find((n) => n.id === id)?.params
  expect(of(nodes, 'pad-filter')?.cutoff).toBe(of(before, 'pad-filter')?.cutoff)
  expect(of(nodes, 'pad-reverb')).toEqual(of(before, 'pad-reverb'))
  for (const n of [2, 1, 0]) {
    await panel.getByRole('button', { name: 'Older throw' }).click()
    await expect.poll(async () => stateOf(await pad())).toBe(states[n])
  }
  await panel.getByRole('button', { name: 'Newer throw' }).click()
  await expect.poll(async () => stateOf(await pad())).toBe(states[1])
  // every throw and walk is one step: nine in all, with the two locks
  for (let n = 0; n < 9; n++) await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
  expect({ ...(await project(page)), locks: [] }).toEqual({ ...start, locks: [] })
})
