import type { Locator } from '@playwright/test'
import { apply, together } from '@oleaje/core/project/edit'
import { setData } from '@oleaje/core/project/value-edits'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { readMidiFile, writeMidiFile } from '@oleaje/core/formats/midi'
import { newSource, newTrack } from '@oleaje/core/project/new'
import { emptyLine } from '@oleaje/core/project/note-edits'
import { type NoteLine, type Track, arpeggioSchema } from '@oleaje/core/project/schema'
import { readFileSync } from 'node:fs'
import {
  drop,
  empty,
  lane,
  menu,
  open,
  openNotes,
  openProject,
  project,
  ready,
  serious,
  trackNamed,
  value,
} from './app'
import { alone, expect, test as own, sharing as test } from './fixtures'

own(
  'a roll by mouse and by keyboard, each step undone; an arpeggio, and a take that is recorded',
  alone,
  async ({ page }) => {
    await open(page, empty('Roll'))
    await page.getByRole('button', { name: 'Add', exact: true }).first().click()
    await page.getByRole('button', { name: 'Played wave' }).click()
    await openNotes(page, 'Played')
    const line = async (): Promise<[number, number, number, number][]> =>
      ((await trackNamed(page, 'Played')).line?.notes ?? []).map((n) => [
        n.start,
        n.length,
        n.pitch,
        Math.round(n.velocity * 127),
      ])
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
    // a double click takes it away
    await page.mouse.dblclick(box.x + 2.6 * perBeat, box.y + 9 * 6 + 4)
    await expect.poll(line).toEqual([])
    await page.keyboard.press('Control+z')
    await expect.poll(line).toEqual([[2, 1.5, pitch - 2, 102]])
    await menu(page, 'Edit notes', 'Repeat')
    await expect.poll(async () => (await line()).length).toBe(2)
    await page.getByRole('button', { name: 'Arpeggio…' }).click()
    await page.getByRole('switch', { name: 'Arpeggio' }).click()
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
  },
)

test('a MIDI file of two tracks: one tunes a comb, one is played; what goes out is what came in', async ({
  page,
}) => {
  await open(page)
  const lines = ['Melody', 'Bass'].map((name, k) => ({
    name,
    channel: k,
    line: {
      length: 8,
      bend: [],
      pressure: [],
      notes: [0, 1.25, 2.5, 4.75].map((start, i) => ({
        start,
        length: 0.75,
        pitch: 40 + 12 * k + 3 * i,
        velocity: (60 + 10 * i) / 127,
      })),
    },
  }))
  await openProject(page, empty('From a file'))
  await drop(page, 'night-ferry.mid', Buffer.from(writeMidiFile(lines, 93, 4)))
  await page.getByRole('button', { name: 'Use its tempo' }).click()
  await page.getByRole('button', { name: 'Import notes' }).click()
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
  await menu(page, 'MIDI files', 'Export MIDI of all tracks')
  const file = readMidiFile(new Uint8Array(readFileSync(await (await saved).path())))
  expect(file.parts.map((p) => [p.name, p.notes])).toEqual(lines.map((l) => [l.name, l.line.notes]))
  expect(file.tempo).toBeCloseTo(93, 3)
  await drop(page, 'broken.mid', Buffer.from('nothing of the sort'))
  await expect(page.getByRole('alert')).toContainText('not a Standard MIDI File')
})

own(
  'ten thousand device messages a second: every note is heard and ends, and unplugging ends the one that is held',
  alone,
  async ({ page }) => {
    // a minute where there is time for it
    const seconds = process.env.OLEAJE_LONG ? 60 : 6
    test.setTimeout(240_000)
    await page.addInitScript(() => {
      const input = {
        id: 'keys',
        name: 'Sea keys',
        state: 'connected',
        onmidimessage: null as ((e: { data: Uint8Array; timeStamp: number }) => void) | null,
      }
      const access = { inputs: new Map([['keys', input]]), onstatechange: null as (() => void) | null }
      Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) })
      Object.assign(globalThis, {
        midi: (...data: number[]) =>
          input.onmidimessage?.({ data: Uint8Array.from(data), timeStamp: performance.now() }),
        unplug: () => {
          input.state = 'disconnected'
          access.onstatechange?.()
        },
      })
    })
    await open(page)
    const p = empty('Flood')
    p.loop.on = false
    const track = newTrack('Sine', newSource('played', { plays: 1, voices: 16 }), 'sine')
    p.tracks.unshift(track)
    await openProject(page, p)
    await page.keyboard.press('u')
    await page.getByRole('button', { name: 'Use MIDI devices' }).click()
    await expect(page.getByText('listening to Sea keys')).toBeVisible()
    await openNotes(page, 'Sine')
    const tools = page.getByRole('group', { name: 'Tools for the notes of Sine' })
    await menu(page, 'Recording options', /Snap takes/)
    await tools.getByRole('button', { name: 'Record', exact: true }).click()
    await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().beat)).toBeGreaterThan(0.5)
    const sent = await page.evaluate(
      (s) =>
        new Promise<{ messages: number; notes: number; took: number }>((resolve) => {
          const { midi } = globalThis as unknown as { midi: (...data: number[]) => void }
          const begun = performance.now()
          let [messages, notes] = [0, 0]
          const pitch = (n: number): number => 30 + ((n * 7) % 64)
          const timer = setInterval(() => {
            const due = Math.min(s, (performance.now() - begun) / 1000) * 10_000
            for (; messages < due; messages++) {
              // 320 notes a second, eight of them at once; all else bends, presses and turns a control
              if (messages % 32 === 0) midi(0x90, pitch(notes++), 90)
              else if (messages % 32 === 16 && notes >= 8) midi(0x80, pitch(notes - 8), 0)
              else if (messages % 3 === 0) midi(0xe0, messages & 127, (messages >> 7) & 127)
              else if (messages % 3 === 1) midi(0xd0, messages & 127)
              else midi(0xb0, 74, messages & 127)
            }
            if (messages < s * 10_000) return
            clearInterval(timer)
            for (let n = Math.max(0, notes - 7); n < notes - 1; n++) midi(0x80, pitch(n), 0)
            resolve({ messages, notes, took: performance.now() - begun })
          }, 4)
        }),
      seconds,
    )
    expect(sent.messages).toBe(seconds * 10_000)
    const voices = (): Promise<number> => value(page, 'read:source:sine:voices')
    // the last one is still held; taking the device away ends it
    await expect.poll(voices).toBe(1)
    await page.evaluate(() => {
      ;(globalThis as unknown as { unplug: () => void }).unplug()
    })
    await expect.poll(voices).toBe(0)
    await expect(page.getByText('Sea keys was disconnected')).toBeVisible()
    await tools.getByRole('button', { name: 'Stop take' }).click()
    await expect.poll(async () => (await trackNamed(page, 'Sine')).line?.notes.length).toBe(sent.notes)
    await page.keyboard.press('Control+z')
    expect((await trackNamed(page, 'Sine')).line?.notes.length ?? 0).toBe(0)
  },
)

test('a stretch over several lanes is chosen by pointer and by key, cut, copied, pasted, repeated and scaled; takes lie under their tracks', async ({
  page,
}) => {
  await open(page)
  const p = empty('Stretches')
  const keys = newTrack('Keys', newSource('played', { plays: 1 }), 'keys')
  keys.line = {
    length: 8,
    notes: [
      { start: 0, length: 0.5, pitch: 60, velocity: 0.8 },
      { start: 2.25, length: 0.5, pitch: 64, velocity: 0.8 },
    ],
    bend: [],
    pressure: [],
  }
  keys.takes = [{ id: 'take', name: 'Take 1', at: 4, dry: 'none', wet: 'none' }]
  const bells = newTrack('Bells', newSource('played', { plays: 1 }), 'bells')
  bells.line = {
    length: 8,
    notes: [
      { start: 2.5, length: 0.25, pitch: 72, velocity: 0.8 },
      { start: 6, length: 0.25, pitch: 74, velocity: 0.8 },
    ],
    bend: [],
    pressure: [],
  }
  p.tracks.unshift(keys, bells)
  p.audio = { none: { name: 'gone', frames: 48_000, channels: 1, sampleRate: 48_000 } }
  await openProject(
    page,
    apply(
      p,
      together(
        addModulator('keys', 'curve', { id: 'tide', params: { length: 8 } }),
        setData(
          'tide',
          'points',
          [
            [0, 0],
            [2, 0],
            [4, 1],
            [8, 1],
          ].map(([x = 0, y = 0]) => ({ x, y, bend: 0 })),
        ),
      ),
    ).next,
  )
  await page.keyboard.press('t')
  const song = page.getByLabel('Lanes', { exact: true })
  await expect(song).toBeVisible()
  // the curve and the take stand under the track that they are of, before the next track
  const order = await song.evaluate((el) =>
    Array.from(el.querySelectorAll('[data-lane]'), (x) => x.getAttribute('data-lane')),
  )
  expect(order).toEqual(['notes:keys', 'curve:tide', 'notes:bells'])
  await expect(page.getByRole('button', { name: 'Actions for Take 1' })).toBeVisible()
  await page.getByRole('button', { name: 'Curves and takes of Keys' }).click()
  await expect(page.getByRole('button', { name: 'Actions for Take 1' })).toBeHidden()
  await page.getByRole('button', { name: 'Curves and takes of Keys' }).click()

  const [first, last] = [
    await page.locator('[data-lane="notes:keys"]').boundingBox(),
    await page.locator('[data-lane="notes:bells"]').boundingBox(),
  ]
  if (!first || !last) throw new Error('The lanes are not drawn.')
  const perBeat = (first.width - 210) / 32
  const x = (beat: number): number => first.x + 210 + beat * perBeat
  await page.keyboard.down('Shift')
  await page.mouse.move(x(2), first.y + 12)
  await page.mouse.down()
  await page.mouse.move(x(3), first.y + 60, { steps: 4 })
  await page.mouse.move(x(4), last.y + 12, { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up('Shift')
  const tools = page.getByRole('group', { name: 'Tools for the selected range' })
  await expect(tools).toContainText('beat 2 to 4 of 3 lanes')
  const state = async (): Promise<{ keys: number[]; bells: number[]; tide: number[]; lengths: number[] }> => {
    const [k, b] = [await trackNamed(page, 'Keys'), await trackNamed(page, 'Bells')]
    const starts = (t: Track): number[] =>
      [...(t.line?.notes ?? [])].map((n) => n.start).sort((m, n) => m - n)
    const points = k.modulators[0]?.data?.points as unknown as { x: number; y: number }[]
    return {
      keys: starts(k),
      bells: starts(b),
      tide: points.map((q) => Math.round(q.x * 100) / 100),
      lengths: [k.line?.length ?? 0, k.modulators[0]?.params.length ?? 0],
    }
  }
  const before = await state()
  const undone = async (): Promise<void> => {
    await song.press('Control+z')
    expect(await state()).toEqual(before)
  }
  await tools.getByRole('button', { name: 'Cut' }).click()
  expect(await state()).toMatchObject({ keys: [0], bells: [6] })
  await undone()
  await tools.getByRole('button', { name: 'Repeat' }).click()
  expect(await state()).toMatchObject({ keys: [0, 2.25, 4.25], bells: [2.5, 4.5, 6] })
  await undone()
  // what was repeated is chosen now; by keys, from there
  await expect(tools).toContainText('beat 4 to 6 of 3 lanes')
  await tools.getByRole('button', { name: 'Deselect' }).click()
  await song.focus()
  for (let i = 0; i < 12; i++) await page.keyboard.press('Shift+ArrowRight')
  await expect(tools).toContainText('beat 0 to 3')
  await page.keyboard.press('Shift+ArrowDown')
  await page.keyboard.press('Shift+ArrowDown')
  await expect(tools).toContainText('of 3 lanes')
  await page.getByRole('button', { name: 'Double length' }).click()
  expect(await state()).toMatchObject({ keys: [0, 4.5], bells: [5, 6] })
  await undone()
  await page.keyboard.press('Shift+ArrowLeft')
  await tools.getByRole('button', { name: 'Deselect' }).click()
  await song.focus()
  for (let i = 0; i < 12; i++) await page.keyboard.press('Shift+ArrowRight')
  await page.getByRole('button', { name: 'Half length' }).click()
  expect((await state()).keys).toEqual([0, 1.125])
  await undone()
  await tools.getByRole('button', { name: 'Deselect' }).click()
  await song.focus()
  for (let i = 0; i < 12; i++) await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Control+x')
  expect(await state()).toMatchObject({ keys: [] })
  await page.keyboard.press('Control+v')
  expect((await state()).keys).toEqual(before.keys)
  await page.keyboard.press('Delete')
  expect(await state()).toMatchObject({ keys: [] })
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  expect(await state()).toEqual(before)
  expect(await serious(page)).toEqual([])
})

test('every tool of the notes works by mouse and by key, and each is one step of undo', async ({ page }) => {
  await open(page)
  const p = empty('Tools')
  const track = newTrack('Keys', newSource('played', { plays: 1 }), 'keys')
  const first = [
    { start: 0.07, length: 0.3, pitch: 60, velocity: 0.3 },
    { start: 1.52, length: 0.4, pitch: 64, velocity: 0.9 },
    { start: 2.9, length: 0.25, pitch: 67, velocity: 0.5 },
  ]
  track.line = { length: 8, notes: first, bend: [], pressure: [] }
  p.tracks.unshift(track)
  await openProject(page, p)
  await openNotes(page, 'Keys')
  const tools = page.getByRole('group', { name: 'Tools for the notes of Keys' })
  const line = async (): Promise<NoteLine> => (await trackNamed(page, 'Keys')).line as NoteLine
  const notes = async (what: (n: NoteLine['notes'][number]) => number): Promise<number[]> =>
    [...(await line()).notes].sort((a, b) => a.start - b.start).map((n) => Math.round(what(n) * 1000) / 1000)
  const starts = (): Promise<number[]> => notes((n) => n.start)
  const pitches = (): Promise<number[]> => notes((n) => n.pitch)
  const cases: [string, () => Promise<unknown>, unknown][] = [
    ['Quantise', starts, [0, 1.5, 3]],
    ['Degree down', pitches, [59, 62, 65]],
    ['Degree up', pitches, [62, 65, 69]],
    ['Octave down', pitches, [48, 52, 55]],
    ['Octave up', pitches, [72, 76, 79]],
    ['Legato', () => notes((n) => n.length), [1.45, 1.38, 0.25]],
    ['Repeat', async () => (await starts()).length, 6],
    ['Half length', starts, [0.07, 0.795, 1.485]],
    ['Double length', starts, [0.07, 2.97, 5.73]],
    ['Even velocity', () => notes((n) => n.velocity), [0.8, 0.8, 0.8]],
    ['Cut', starts, []],
    ['Play once', async () => (await line()).length, 0],
    ['Clear', async () => (await trackNamed(page, 'Keys')).line, null],
  ]
  // C major, so that degrees are told
  await tools.getByRole('button', { name: /Scale type/ }).click()
  await page.getByRole('option', { name: 'major', exact: true }).click()
  /** Opens what a tool stands in, if it is no button of the line itself. */
  const find = async (name: string): Promise<Locator> => {
    const button = tools.getByRole('button', { name, exact: true })
    if (await button.count()) return button
    const isLane = name === 'Play once'
    await tools.getByRole('button', { name: isLane ? 'Lane…' : 'Edit notes', exact: true }).click()
    return isLane ? button : page.getByRole('menuitem', { name, exact: true })
  }
  const act = async (
    name: string,
    way: 'mouse' | 'key',
    found: () => Promise<unknown>,
    expected: unknown,
  ): Promise<void> => {
    const tool = await find(name)
    if (way === 'mouse') await tool.click()
    else if ((await tool.getAttribute('role')) === 'menuitem') {
      for (let i = 0; i < 12; i++) {
        await page.keyboard.press('ArrowDown')
        if ((await tool.getAttribute('data-headlessui-state'))?.includes('active')) break
      }
      await page.keyboard.press('Enter')
    } else {
      await tool.focus()
      await page.keyboard.press('Enter')
    }
    await expect.poll(found, { message: `${name} by ${way}` }).toEqual(expected)
    await page.keyboard.press('Control+z')
    await expect
      .poll(async () => (await line())?.notes, { message: `${name} by ${way}, undone` })
      .toEqual(first)
  }
  for (const [name, found, expected] of cases) {
    for (const way of ['mouse', 'key'] as const) await act(name, way, found, expected)
  }
  // the copied ones at the playhead, which stands at the beginning
  for (const name of ['Copy', 'Paste']) await (await find(name)).click()
  await expect.poll(starts).toEqual([0, 0.07, 1.45, 1.52, 2.83, 2.9])
  await page.keyboard.press('Control+z')
  await expect.poll(starts).toEqual([0.07, 1.52, 2.9])
  // by key from the lane: all are copied, put at the place that Enter would use, cut there, put back, and
  // repeated
  const lane = page.getByRole('application', { name: /^Notes of Keys/ })
  await lane.focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Escape')
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Control+v')
  const put = [0.75, 2.2, 3.58]
  await expect.poll(starts).toEqual([0.07, ...put, 1.52, 2.9].sort((a, b) => a - b))
  await page.keyboard.press('Control+x')
  await expect.poll(starts).toEqual([0.07, 1.52, 2.9])
  await page.keyboard.press('Control+v')
  await page.keyboard.press('Control+d')
  await expect.poll(async () => (await starts()).length).toBe(9)
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect.poll(starts).toEqual([0.07, 1.52, 2.9])
  // fields are typed into
  for (const [label, text, found, expected] of [
    ['Note offset', '7 ms', async () => (await trackNamed(page, 'Keys')).noteOffset, 0.007],
    ['Length of the line', '5 beats', async () => (await line()).length, 5],
  ] as const) {
    const field = tools.getByRole('textbox', { name: label })
    if (!(await field.count())) await tools.getByRole('button', { name: 'Lane…', exact: true }).click()
    await field.fill(text)
    await field.press('Enter')
    await expect.poll(found).toBe(expected)
    await page.keyboard.press('Control+z')
    await expect.poll(found).not.toBe(expected)
  }
  expect((await line()).notes).toEqual(first)
  expect((await line()).length).toBe(8)
  expect(await serious(page)).toEqual([])
})

test('the song is looked along by wheel, drag and key; the view stays where the hand took it while it plays, and follows again when asked', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('t')
  const song = page.getByLabel('Lanes', { exact: true })
  const left = (): Promise<number> => song.evaluate((el) => el.scrollLeft)
  const wide = (): Promise<number> => song.evaluate((el) => el.scrollWidth)
  const box = (await song.boundingBox())!
  const [x, y] = [Math.round(box.x + 600), Math.round(box.y + box.height - 60)]
  // the names and a hair at the end do not grow with it
  const once = (await song.evaluate((el) => el.clientWidth)) - 212
  // the wheel zooms about the pointer by half an octave a notch
  await page.mouse.move(x, y)
  await page.keyboard.down('Control')
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -100)
  await page.keyboard.up('Control')
  await expect.poll(wide).toBeCloseTo(210 + 4 * once, -1)
  await expect.poll(left).toBeCloseTo(3 * (x - box.x - 210), -1)
  // the middle button takes it along, and upwards with Ctrl makes it wider about where it was pressed
  const before = await left()
  await page.mouse.down({ button: 'middle' })
  await page.mouse.move(x + 137, y + 9, { steps: 4 })
  await page.mouse.up({ button: 'middle' })
  await expect.poll(async () => Math.abs((await left()) - (before - 137))).toBeLessThan(2)
  await page.mouse.move(x, y)
  await page.keyboard.down('Control')
  await page.mouse.down()
  await page.mouse.move(x, y - 90, { steps: 5 })
  await page.mouse.up()
  await page.keyboard.up('Control')
  await expect.poll(wide).toBeCloseTo(210 + 8 * once, -1)
  await expect
    .poll(async () => Math.abs((await left()) - (2 * (before - 137 + x - box.x - 210) - (x - box.x - 210))))
    .toBeLessThan(4)
  // it plays from the beginning, which comes into sight; the hand looks elsewhere and is left alone
  await page.keyboard.press('Space')
  // a late frame finds the playhead some way from the beginning, and the view stands 40 px before it
  await expect.poll(left).toBeLessThan(300)
  await page.mouse.down({ button: 'middle' })
  await page.mouse.move(x - 211, y, { steps: 2 })
  await page.mouse.up({ button: 'middle' })
  await page.mouse.move(x, y)
  await page.mouse.down({ button: 'middle' })
  await page.mouse.move(x - 511, y, { steps: 2 })
  await page.mouse.up({ button: 'middle' })
  const there = await left()
  expect(there).toBeGreaterThan(500)
  const blocks = await page.evaluate(() => globalThis.oleaje.live().blocks)
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().blocks)).toBeGreaterThan(blocks + 300)
  expect(await left()).toBe(there)
  const follow = page.getByRole('button', { name: 'follow', exact: true })
  await follow.click()
  await follow.click()
  await expect.poll(left).not.toBe(there)
  // keys: wider, narrower, to the ends
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await song.focus()
  await page.keyboard.press('-')
  await expect.poll(wide).toBeCloseTo(210 + 2 ** 2.5 * once, -1)
  await page.keyboard.press('End')
  await expect.poll(left).toBeGreaterThan(4 * once)
  await page.keyboard.press('Home')
  await expect.poll(left).toBe(0)
})

test('a lane is made taller by its edge and by keys, and stays so; the roll scrolls and zooms by wheel and key, and opens at its notes', async ({
  page,
}) => {
  const p = empty('Roll')
  const keys = newTrack('Keys', newSource('played', { plays: 3 }), 'keys')
  keys.line = { ...emptyLine(4), notes: [{ start: 0, length: 1, pitch: 103, velocity: 0.8 }] }
  p.tracks.unshift(keys)
  await open(page, p)
  await openNotes(page, 'Keys')
  const names = page.getByRole('group', { name: 'Keys of Keys' })
  const shown = (): Promise<string[]> =>
    names.evaluate((el) => {
      const box = el.getBoundingClientRect()
      return Array.from(el.querySelectorAll('span')).flatMap((s) => {
        const { top, bottom } = s.getBoundingClientRect()
        return s.textContent && top >= box.top - 1 && bottom <= box.bottom + 1 ? [s.textContent] : []
      })
    })
  expect(await shown()).toContain('C7')
  expect(await shown()).not.toContain('C4')
  await lane(page).focus()
  for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown')
  await expect.poll(shown).toContain('C4')
  const edge = page.getByRole('separator', { name: 'Height of the notes of Keys' })
  const height = async (): Promise<number> => (await lane(page).boundingBox())?.height ?? 0
  const before = await height()
  const box = (await edge.boundingBox())!
  await page.mouse.move(box.x + 300, box.y + 4)
  await page.mouse.down()
  await page.mouse.move(box.x + 300, box.y + 77, { steps: 4 })
  await page.mouse.up()
  await expect.poll(height).toBeCloseTo(before + 73, 0)
  await edge.focus()
  await page.keyboard.press('ArrowUp')
  await expect.poll(height).toBeCloseTo(before + 65, 0)
  const row = (): Promise<number> =>
    names
      .locator('span')
      .first()
      .evaluate((el) => el.getBoundingClientRect().height)
  expect(await row()).toBe(9)
  const at = (await lane(page).boundingBox())!
  await page.mouse.move(at.x + 200, at.y + 60)
  await page.keyboard.down('Alt')
  await page.keyboard.down('Shift')
  for (let i = 0; i < 9; i++) await page.mouse.wheel(0, -120)
  await page.keyboard.up('Shift')
  await page.keyboard.up('Alt')
  await expect.poll(row).toBe(18)
  await page.reload()
  await ready(page)
  await openNotes(page, 'Keys')
  await expect.poll(height).toBeCloseTo(before + 65, 0)
  await edge.dblclick()
  await expect.poll(height).toBeCloseTo(before, 0)
})

test('an arpeggio draws the notes that it plays behind the held ones, and undo is named by its step', async ({
  page,
}) => {
  const p = empty('Ghosts')
  const keys = newTrack('Keys', newSource('played', { plays: 3 }), 'keys')
  keys.line = { ...emptyLine(4), notes: [{ start: 0, length: 2, pitch: 60, velocity: 0.8 }] }
  keys.arpeggio = { ...arpeggioSchema.parse({ on: false }), octaves: 2, step: 0.5 }
  p.tracks.unshift(keys)
  await open(page, p)
  await openNotes(page, 'Keys')
  // an octave above the held note there is only an outline
  const drawn = (): Promise<number> =>
    lane(page)
      .locator('canvas')
      .evaluate((el: HTMLCanvasElement) => {
        const g = el.getContext('2d')!
        const { data } = g.getImageData(0, 0, Math.min(el.width, 200), el.height)
        let sum = 0
        for (let i = 0; i < data.length; i += 4) sum += data[i]!
        return sum
      })
  await expect.poll(drawn).toBeGreaterThan(0)
  await page.getByRole('button', { name: 'Arpeggio…' }).click()
  const without = await drawn()
  const toggle = page.getByRole('switch', { name: 'Arpeggio' })
  await toggle.click()
  await expect.poll(drawn).not.toBe(without)
  await toggle.click()
  await expect.poll(drawn).toBe(without)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /^Undo: Set the arpeggio/)
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Search' }).fill('undo')
  await expect(page.getByRole('option', { name: /Undo: Set the arpeggio/ })).toBeVisible()
})
