import { apply } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { readMidiFile, writeMidiFile } from '@oleaje/core/formats/midi'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { NoteLine, Project, Track } from '@oleaje/core/project/schema'
import { readPads } from '@oleaje/core/sources/kit'
import { readFileSync } from 'node:fs'
import { type Page, expect, test } from '@playwright/test'
import { drop, open, project, serious } from './app'

const empty = (name: string): Project => ({ ...newProject(name), tempo: 107 })
const trackNamed = async (page: Page, name: string): Promise<Track> => {
  const found = (await project(page)).tracks.find((t) => t.name === name)
  if (!found) throw new Error(`There is no track “${name}”.`)
  return found
}
const value = (page: Page, key: string): Promise<number> => page.evaluate((k) => globalThis.oleaje.value(k), key)
const lane = (page: Page) => page.locator('[data-region=notes]')

/** Opens a project as from a file. */
async function openProject(page: Page, p: Project): Promise<void> {
  await drop(page, 'project.json', Buffer.from(JSON.stringify(p)))
  await expect.poll(async () => (await project(page)).name).toBe(p.name)
}

/** Opens the notes of a track in the Timeline. */
async function openNotes(page: Page, name: string): Promise<void> {
  await page.keyboard.press('t')
  await page.getByRole('button', { name: `Notes of ${name}`, exact: true }).click()
  await lane(page).scrollIntoViewIfNeeded()
}

test('a kit: three pads, a pattern by mouse and key, one drum through a branch of its own, struck by pattern, by key and by click', async ({
  page,
}) => {
  await open(page)
  await openProject(page, empty('Kit by hand'))
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('button', { name: 'pads of a new kit' }).click()
  for (const name of ['kick', 'snare', 'closed hat']) await page.getByRole('button', { name: `Take Stroke, ${name}` }).click()
  await expect.poll(async () => readPads((await project(page)).tracks.find((t) => t.name === 'Kit')?.source?.data).length).toBe(3)
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  await page.getByRole('button', { name: 'Strike snare' }).click()
  const kit = await trackNamed(page, 'Kit')
  const pad = (i: number): Promise<number> => value(page, `read:source:${kit.id}:pad${i}`)
  await expect.poll(() => pad(1), { intervals: [5] }).toBeGreaterThan(0.01)
  expect(await pad(0)).toBe(0)
  await page.getByRole('button', { name: 'Own branch' }).click()
  const split = (await trackNamed(page, 'Kit')).a.nodes[0]
  expect(split?.kind === 'split' && [split.mode, split.branches.map((b) => [b.name, b.pads])]).toEqual([
    'pads',
    [
      ['snare', [1]],
      ['all others', undefined],
    ],
  ])
  await openNotes(page, 'Kit')
  const box = await lane(page).boundingBox()
  if (!box) throw new Error('The steps are not drawn.')
  // a stroke over the four first steps of the lowest row: the kick
  const perBeat = box.width / 32
  await page.mouse.move(box.x + 2, box.y + 55)
  await page.mouse.down()
  for (let i = 1; i < 4; i++) await page.mouse.move(box.x + (i * 0.25 + 0.1) * perBeat, box.y + 55, { steps: 3 })
  await page.mouse.up()
  const notes = async (): Promise<NoteLine['notes']> =>
    [...((await trackNamed(page, 'Kit')).line?.notes ?? [])].sort((a, b) => a.start - b.start || a.pitch - b.pitch)
  await expect
    .poll(async () => (await notes()).map((n) => [n.start, n.pitch]))
    .toEqual([
      [0, 36],
      [0.25, 36],
      [0.5, 36],
      [0.75, 36],
    ])
  // by keys: the row above, three steps on
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await notes()).map((n) => [n.start, n.pitch]))
    .toEqual([
      [0, 36],
      [0.25, 36],
      [0.25, 37],
      [0.5, 36],
      [0.75, 36],
    ])
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(notes).toEqual([])
  await page.keyboard.press('Control+Shift+z')
  await page.keyboard.press('Space')
  await expect.poll(() => pad(0), { intervals: [5] }).toBeGreaterThan(0.01)
  await page.keyboard.press('Space')
  // the computer’s keys: the lowest row begins at C of the octave
  await page.keyboard.press('Shift+P')
  await page.keyboard.press('PageDown')
  await page.keyboard.press('PageUp')
  await page.keyboard.press('z')
  await expect.poll(() => pad(0), { intervals: [5] }).toBeGreaterThan(0.01)
  expect(await serious(page)).toEqual([])
})

test('a roll by mouse and by keyboard, each step undone; an arpeggio, and a take that is recorded', async ({ page }) => {
  await open(page)
  await openProject(page, empty('Roll'))
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('button', { name: 'Played wave' }).click()
  await openNotes(page, 'Played')
  const line = async (): Promise<[number, number, number, number][]> =>
    ((await trackNamed(page, 'Played')).line?.notes ?? []).map((n) => [n.start, n.length, n.pitch, Math.round(n.velocity * 127)])
  const box = await lane(page).boundingBox()
  if (!box) throw new Error('The roll is not drawn.')
  const perBeat = box.width / 32
  // drawn: from 1 to 2.5, in the fifth row
  await page.mouse.move(box.x + 1.05 * perBeat, box.y + 9 * 4 + 4)
  await page.mouse.down()
  await page.mouse.move(box.x + 2.4 * perBeat, box.y + 9 * 4 + 4, { steps: 5 })
  await page.mouse.up()
  const [[, , pitch = 0] = []] = await line()
  await expect.poll(line).toEqual([[1, 1.5, pitch, 102]])
  const undone: [string, [number, number, number, number][]][] = []
  const by = async (key: string, after: [number, number, number, number][]): Promise<void> => {
    await page.keyboard.press(key)
    await expect.poll(line, { message: key }).toEqual(after)
    undone.push([key, after])
  }
  await by('ArrowRight', [[1.25, 1.5, pitch, 102]])
  await by('ArrowUp', [[1.25, 1.5, pitch + 1, 102]])
  await by('Shift+ArrowLeft', [[1.25, 1.25, pitch + 1, 102]])
  await by('Shift+ArrowDown', [[1.25, 1.25, pitch + 1, 95]])
  await by('Delete', [])
  for (const [, before] of [...undone.slice(0, -1).reverse(), ['drawn', [[1, 1.5, pitch, 102]]] as const]) {
    await page.keyboard.press('Control+z')
    await expect.poll(line).toEqual(before)
  }
  // moved by the mouse: a beat on and two keys down
  await page.mouse.move(box.x + 1.6 * perBeat, box.y + 9 * 4 + 4)
  await page.mouse.down()
  await page.mouse.move(box.x + 2.6 * perBeat, box.y + 9 * 6 + 4, { steps: 6 })
  await page.mouse.up()
  await expect.poll(line).toEqual([[2, 1.5, pitch - 2, 102]])
  await page.getByRole('button', { name: 'repeat', exact: true }).last().click()
  await expect.poll(async () => (await line()).length).toBe(2)
  await page.getByRole('button', { name: 'arpeggio…' }).click()
  await page.getByRole('button', { name: 'Off', exact: true }).click()
  await expect.poll(async () => (await trackNamed(page, 'Played')).arpeggio?.on).toBe(true)
  await page.getByRole('button', { name: 'Keep as notes' }).click()
  // two notes of a beat and a half: six sixteenths each
  await expect.poll(async () => (await line()).length).toBe(12)
  expect((await trackNamed(page, 'Played')).arpeggio?.on).toBe(false)
  await page.keyboard.press('Escape')
  // a take: two notes that are played on the simulated keys while the song does
  const before = (await line()).length
  await page.keyboard.press('Shift+R')
  await page.waitForFunction(() => globalThis.oleaje.live().beat > 0.5)
  await page.keyboard.press('Shift+P')
  for (const key of ['z', 'x']) {
    const pressed = await page.evaluate(() => globalThis.oleaje.live().beat)
    await page.keyboard.down(key)
    await page.waitForFunction((beat) => globalThis.oleaje.live().beat > beat + 0.27, pressed)
    await page.keyboard.up(key)
  }
  await page.keyboard.press('Shift+P')
  await page.keyboard.press('Shift+R')
  await expect.poll(async () => (await line()).length).toBe(before + 2)
  const taken = (await line()).slice(before)
  expect(taken.map((n) => n[2])).toEqual([36, 37])
  for (const [start] of taken) expect(Math.abs(start * 4 - Math.round(start * 4))).toBeLessThan(1e-6)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await line()).length).toBe(before)
  await page.keyboard.press('Space')
})

test('a MIDI file of two tracks: one tunes a comb, one is played; what goes out is what came in', async ({ page }) => {
  await open(page)
  const lines = ['Melody', 'Bass'].map((name, k) => ({
    name,
    channel: k,
    line: {
      length: 8,
      bend: [],
      pressure: [],
      notes: [0, 1.25, 2.5, 4.75].map((start, i) => ({ start, length: 0.75, pitch: 40 + 12 * k + 3 * i, velocity: (60 + 10 * i) / 127 })),
    },
  }))
  await openProject(page, empty('From a file'))
  await drop(page, 'night-ferry.mid', Buffer.from(writeMidiFile(lines, 93, 4)))
  await page.getByRole('button', { name: 'take its tempo' }).click()
  await page.getByRole('button', { name: 'Take the notes' }).click()
  await expect
    .poll(async () => (await project(page)).tracks.map((t) => [t.name, t.line?.notes.length ?? 0]))
    .toEqual([
      ['Melody', 4],
      ['Bass', 4],
      ['Mix', 0],
    ])
  expect((await project(page)).tempo).toBeCloseTo(93, 3)
  await page.keyboard.press('Space')
  const bass = await trackNamed(page, 'Bass')
  await expect.poll(() => value(page, `peak:track:${bass.id}`), { intervals: [10] }).toBeGreaterThan(0.01)
  await page.keyboard.press('Space')
  await openNotes(page, 'Bass')
  const saved = page.waitForEvent('download')
  await page.getByRole('button', { name: 'to a MIDI file', exact: true }).click({ modifiers: ['Shift'] })
  const file = readMidiFile(new Uint8Array(readFileSync(await (await saved).path())))
  expect(file.parts.map((p) => [p.name, p.notes])).toEqual(lines.map((l) => [l.name, l.line.notes]))
  expect(file.tempo).toBeCloseTo(93, 3)
  await drop(page, 'broken.mid', Buffer.from('nothing of the sort'))
  await expect(page.getByRole('alert')).toContainText('not a Standard MIDI File')
})

test('sends and buses by hand: what goes, what arrives, what is refused, and the chart with both', async ({ page }) => {
  await open(page)
  await page
    .getByRole('button', { name: /^Rope guitar/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'a bus…' }).click()
  await page.getByRole('option', { name: 'a new bus' }).click()
  await expect.poll(async () => (await project(page)).sends.length).toBe(1)
  const bus = await trackNamed(page, 'Bus 1')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect.poll(() => value(page, `peak:track:${bus.id}`), { intervals: [10] }).toBeGreaterThan(0.001)
  await page.getByRole('button', { name: 'Goes to Bus 1' }).click()
  await expect(page.getByRole('button', { name: 'Comes from Rope guitar' })).toBeVisible()
  // the bus cannot be sent to itself round another one
  await page.getByRole('button', { name: 'a bus…' }).click()
  await page.getByRole('option', { name: 'a new bus' }).click()
  await page.getByRole('button', { name: 'Goes to Bus 2' }).click()
  await page.getByRole('button', { name: 'a bus…' }).click()
  await page.getByRole('option', { name: 'Bus 1' }).click()
  await expect(page.getByRole('alert')).toContainText('“Bus 2” cannot go to “Bus 1”: sound would go round, “Bus 1” to “Bus 2” to “Bus 1”.')
  expect((await project(page)).sends.length).toBe(2)
  expect(await serious(page)).toEqual([])
})

test('a print takes the place of its track; it is undone, and printed again after a change in under ten actions', async ({ page }) => {
  await open(page)
  await page
    .getByRole('button', { name: /^Hull bass/ })
    .first()
    .click()
  await page.keyboard.press('Control+p')
  await page.getByRole('button', { name: 'Print', exact: true }).last().click()
  const printed = async (): Promise<Track | undefined> => (await project(page)).tracks.find((t) => t.print)
  await expect.poll(async () => (await printed())?.name, { timeout: 60_000 }).toBe('Hull bass, printed')
  const first = await printed()
  const p = await project(page)
  expect(p.audio[first?.source?.audio ?? '']?.frames).toBe(Math.round((((p.loop.end - p.loop.start) * 60) / p.tempo) * p.sampleRate))
  expect((await trackNamed(page, 'Hull bass')).params.mute).toBe(1)
  await page.keyboard.press('Control+z')
  await expect.poll(printed).toBe(undefined)
  expect((await trackNamed(page, 'Hull bass')).params.mute ?? 0).toBe(0)
  await page.keyboard.press('Control+Shift+z')
  await expect.poll(async () => (await printed())?.source?.audio).toBe(first?.source?.audio)
  // a change of what it was made from, then once more: five actions
  await page.getByRole('button', { name: 'Hull bass', exact: true }).click()
  await page.locator('[data-node]').first().click()
  await page.keyboard.press('x')
  await page.getByRole('button', { name: 'Hull bass, printed', exact: true }).click()
  await page.getByRole('button', { name: 'Print again' }).click()
  await expect.poll(async () => (await printed())?.source?.audio, { timeout: 60_000 }).not.toBe(first?.source?.audio)
})

test('the simulated player through a chain, recorded: dry is what was played, wet what came out, both aligned by the measured way', async ({
  page,
}) => {
  await open(page)
  const p = empty('Takes')
  const line = {
    ...newTrack('Line', { ...newSource('input', { fine: 0, sides: 1 }), device: 'cable' }, 'line'),
    a: { nodes: [newEffect('limiter', { ceiling: 0, on: 0 })] },
  }
  // what goes down the cable: test pulses, each beat, of a track that is not the one recorded
  const pulses = newTrack('Pulses', newSource('tone', { wave: 7, level: -12 }), 'pulses')
  line.params.level = -72
  p.tracks.unshift(pulses, line)
  await openProject(page, p)
  await page.getByRole('button', { name: 'Line', exact: true }).click()
  await page.getByRole('button', { name: 'Open input' }).click()
  await page.getByRole('button', { name: 'measure the way round' }).click()
  await expect(page.getByText(/ms, \d+ samples/)).toBeVisible()
  const round = await page.evaluate(() => Number(/, (\d+) samples/.exec(document.body.innerText)?.[1]))
  // the cable is 13.7 ms long
  expect(round).toBeGreaterThan(0.0137 * 48_000 - 2)
  expect(round).toBeLessThan(0.0137 * 48_000 + 400)
  await page.keyboard.press('Shift+T')
  await page.waitForFunction(() => globalThis.oleaje.live().beat > 2.6)
  await page.keyboard.press('Shift+T')
  await expect.poll(async () => (await trackNamed(page, 'Line')).takes?.length).toBe(1)
  await page.keyboard.press('Space')
  const [take] = (await trackNamed(page, 'Line')).takes ?? []
  if (!take) throw new Error('There is no take.')
  expect(take.at).toBe(0)
  const sides = await page.evaluate(
    ({ dry, wet }) =>
      [dry, wet].map((hash) => {
        const x = globalThis.oleaje.sound(hash)?.channels[0] ?? new Float32Array(0)
        const found: number[] = []
        x.forEach((v, i) => {
          if (Math.abs(v) > 0.05 && (found.length === 0 || i - (found[found.length - 1] ?? 0) > 1000)) found.push(i)
        })
        return found
      }),
    take,
  )
  const beat = (60 / 107) * 48_000
  for (const found of sides) {
    expect(found.length).toBeGreaterThan(1)
    // each pulse on its beat, within a sample; what the engine itself comes late is part of the way
    found.forEach((at) => expect(Math.abs(at / beat - Math.round(at / beat)) * beat).toBeLessThan(1.5))
  }
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await trackNamed(page, 'Line')).takes?.length ?? 0).toBe(0)
  await page.keyboard.press('Control+Shift+z')
  await page.getByRole('button', { name: 'Keep Line, take 1, wet' }).click()
  await expect.poll(async () => (await project(page)).tracks.find((t) => t.source?.audio === take.wet)?.name).toBe('Line, take 1, wet')
})

test('the fake microphone through overload and a resonant filter that a follower moves, recorded: the take agrees with the gauges', async ({
  page,
}) => {
  await open(page)
  const p = empty('Microphone')
  const line: Track = {
    ...newTrack('Guitar', { ...newSource('input', { coarse: 1, fine: 0 }), device: 'microphone' }, 'guitar'),
    a: {
      nodes: [
        newEffect('drive', { drive: 20, output: -9, quality: 2 }, 'overload'),
        newEffect('filter', { cutoff: 300, resonance: 6 }, 'wah'),
      ],
    },
  }
  p.tracks.unshift(line)
  const edits = [
    addModulator('guitar', 'follower', {
      id: 'touch',
      params: { attack: 0.004, release: 0.1, sensitivity: 0 },
      listens: { track: 'guitar', point: 'before' },
    }),
    addLink('touch', { owner: 'wah', param: 'cutoff' }, 0.3, 0.8, { mode: 'fixed' }),
  ]
  await openProject(
    page,
    edits.reduce((q, e) => apply(q, e).next, p),
  )
  await page.getByRole('button', { name: 'Open input' }).click()
  await page.keyboard.press('Shift+T')
  await page.waitForFunction(() => globalThis.oleaje.live().beat > 0.2)
  // what the gauges show while it is recorded: places on their staves, and where the song is
  const seen = await page.evaluate(async () => {
    const rows: { beat: number; follower: number; cutoff: number }[] = []
    for (let i = 0; i < 160; i++) {
      await new Promise((done) => {
        setTimeout(done, 20)
      })
      rows.push({
        beat: globalThis.oleaje.live().beat,
        follower: globalThis.oleaje.value('mod:touch'),
        cutoff: globalThis.oleaje.value('live:wah.cutoff'),
      })
    }
    return rows
  })
  await page.keyboard.press('Shift+T')
  await expect.poll(async () => (await trackNamed(page, 'Guitar')).takes?.length).toBe(1)
  await page.keyboard.press('Space')
  const [take] = (await trackNamed(page, 'Guitar')).takes ?? []
  if (!take) throw new Error('There is no take.')
  const levels = await page.evaluate(
    ({ hashes, beats }) =>
      hashes.map((hash) => {
        const x = globalThis.oleaje.sound(hash)?.channels[0] ?? new Float32Array(0)
        return beats.map((beat) => {
          const at = Math.round(((beat * 60) / 107) * 48_000)
          let peak = 0
          for (let i = Math.max(0, at - 1500); i < at; i++) peak = Math.max(peak, Math.abs(x[i] ?? 0))
          return peak
        })
      }),
    { hashes: [take.dry, take.wet], beats: seen.map((s) => s.beat - take.at) },
  )
  const [dry = [], wet = []] = levels
  expect(Math.max(...dry)).toBeGreaterThan(0.01)
  expect(Math.max(...wet)).toBeGreaterThan(0.01)
  const correlation = (a: readonly number[], b: readonly number[]): number => {
    const mean = (x: readonly number[]): number => x.reduce((s, v) => s + v, 0) / x.length
    const [ma, mb] = [mean(a), mean(b)]
    const sum = (f: (i: number) => number): number => a.reduce((s, _, i) => s + f(i), 0)
    return (
      sum((i) => ((a[i] ?? 0) - ma) * ((b[i] ?? 0) - mb)) /
      Math.sqrt(sum((i) => ((a[i] ?? 0) - ma) ** 2) * sum((i) => ((b[i] ?? 0) - mb) ** 2))
    )
  }
  // the follower goes with the level of what was recorded, and the cutoff is where the follower puts it
  expect(
    correlation(
      dry,
      seen.map((s) => s.follower),
    ),
  ).toBeGreaterThan(0.6)
  expect(
    correlation(
      seen.map((s) => s.follower),
      seen.map((s) => s.cutoff),
    ),
  ).toBeGreaterThan(0.98)
  for (const s of seen) expect(s.cutoff).toBeGreaterThan(0.25)
})
