import { readFileSync } from 'node:fs'
import { together, apply } from '@oleaje/core/project/edit'
import { addTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { drop, empty, open, project } from './app'
import { expect, test } from './fixtures'
import { Hand, links } from './hand'

const KINDS = [
  ['filter', 'cutoff'],
  ['drive', 'drive'],
  ['delay', 'feedback'],
  ['gain', 'level'],
] as const

/** Twelve tracks of four effects and five links each, of which one in five is off. */
function session(): Project {
  let p = empty('Long night')
  for (let t = 0; t < 12; t++) {
    const track = newTrack(`Buoy ${t + 1}`, newSource('tone', { level: -30 }), `t${t}`)
    track.a.nodes = KINDS.map(([type]) => newEffect(type, {}, `${type}${t}`))
    p = apply(
      p,
      together(
        addTrack(track),
        addModulator(`t${t}`, 'lfo', { id: `lfo${t}`, name: `Swell ${t + 1}` }),
        ...KINDS.map(([type, param]) =>
          addLink(`lfo${t}`, { owner: `${type}${t}`, param }, 0.3, 0.6, { id: `${type}link${t}` }),
        ),
        addLink(`lfo${t}`, { owner: `t${t}`, param: 'pan' }, 0.4, 0.6, { id: `panlink${t}` }),
        updateLink(`panlink${t}`, { on: false }),
      ),
    ).next
  }
  return p
}

test('a session of 12 tracks, 48 effects and 60 links, cleaned up and moved to another browser: at most 40 actions', async ({
  page,
  browser,
}) => {
  await open(page, session())
  const hand = new Hand(page)
  expect(await links(page)).toHaveLength(60)
  // links that are off go; the others move half as far
  await hand.key('k')
  const filter = page.getByRole('searchbox', { name: 'Filter links' })
  await hand.click(filter)
  await hand.type('pan')
  await hand.button('Select all shown')
  await hand.button('Remove')
  await expect.poll(async () => (await links(page)).length).toBe(48)
  await hand.click(filter)
  await page.keyboard.press('Control+a')
  await hand.type('level')
  await hand.button('Select all shown')
  await hand.click(page.getByRole('textbox', { name: 'Factor for amounts' }))
  await page.keyboard.press('Control+a')
  await hand.type('0.5')
  await hand.button('Scale')
  // two tracks and an effect go, one track gets a name
  await hand.key('b')
  for (const name of ['Buoy 3', 'Buoy 7']) {
    await hand.click(page.getByRole('button', { name, exact: true }))
    await hand.key('Delete')
  }
  await hand.click(page.getByRole('button', { name: 'Buoy 5', exact: true }))
  await hand.node(/^Drive, on/)
  await hand.key('Delete')
  await hand.click(page.getByRole('textbox', { name: 'Name of track Buoy 5' }))
  await page.keyboard.press('Control+a')
  await hand.type('Bell')
  const saved = page.waitForEvent('download')
  await hand.key('Control+s')
  const file = await (await saved).path()
  const here = await project(page)
  expect(here.tracks.map((t) => t.name)).toEqual([
    ...[1, 2, 4].map((n) => `Buoy ${n}`),
    'Bell',
    ...[6, 8, 9, 10, 11, 12].map((n) => `Buoy ${n}`),
    'Mix',
  ])
  expect(here.links.length).toBe(39)

  const elsewhere = await browser.newContext()
  const other = await elsewhere.newPage()
  await open(other, empty('Other machine'))
  await drop(other, 'long-night.zip', readFileSync(file))
  hand.actions++
  await expect.poll(async () => (await project(other)).name).toBe('Long night')
  await other.keyboard.press('Space')
  hand.actions++
  const there = await project(other)
  expect({ ...there, id: '' }).toEqual({ ...here, id: '' })
  await expect
    .poll(() => other.evaluate(() => globalThis.oleaje.value('peak:track:t4')))
    .toBeGreaterThan(0.0001)
  await elsewhere.close()
  hand.takesAtMost(40)
})
