import { writeWav } from '@oleaje/core/formats/wav'
import { apply } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { readPads } from '@oleaje/core/sources/kit'
import {
  drop,
  empty,
  lane,
  menu,
  open,
  openNotes,
  openProject,
  project,
  rises,
  serious,
  trackNamed,
  value,
} from './app'
import { alone, expect, test as own, sharing as test } from './fixtures'

/** The shipped kick, by its hash. */
const KICK = '5b500ac3f7085b42bae994858b6adaeb7b9b6765'

test('a kit: three pads, a pattern by mouse and key, one drum through a branch of its own, struck by pattern, by key and by click', async ({
  page,
}) => {
  await open(page, empty('Kit by hand'))
  await page.getByRole('button', { name: 'Add', exact: true }).first().click()
  await page.getByRole('button', { name: 'Pads of a new kit' }).click()
  // the first one chosen comes last: the pads stand in the order of the choices
  await page.route('**/demo/*.wav', async (route) => {
    if (route.request().url().endsWith(KICK)) await new Promise((later) => setTimeout(later, 700))
    await route.continue()
  })
  for (const name of ['kick', 'snare', 'closed hat'])
    await page.getByRole('button', { name: `Take Stroke, ${name}` }).click()
  await expect
    .poll(async () =>
      readPads((await project(page)).tracks.find((t) => t.name === 'Kit')?.source?.data).map((p) => p.name),
    )
    .toEqual(['kick', 'snare', 'closed hat'])
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  const kit = await trackNamed(page, 'Kit')
  const pad = (i: number): Promise<number> => value(page, `read:source:${kit.id}:pad${i}`)
  // a strike may come a moment before the plan with the new pads
  await expect(async () => {
    const struck = rises(page, `read:source:${kit.id}:pad1`)
    await page.getByRole('button', { name: 'Play snare' }).click()
    await struck
  }).toPass({ timeout: 12_000 })
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
  for (let i = 1; i < 4; i++)
    await page.mouse.move(box.x + (i * 0.25 + 0.1) * perBeat, box.y + 55, { steps: 3 })
  await page.mouse.up()
  const notes = async (): Promise<NoteLine['notes']> =>
    [...((await trackNamed(page, 'Kit')).line?.notes ?? [])].sort(
      (a, b) => a.start - b.start || a.pitch - b.pitch,
    )
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
  const played = rises(page, `read:source:${kit.id}:pad0`, 20_000)
  await page.keyboard.press('Space')
  await played
  await page.keyboard.press('Space')
  // the computer’s keys: the lowest row begins at C of the octave
  await page.keyboard.press('Shift+P')
  await page.keyboard.press('PageDown')
  await page.keyboard.press('PageUp')
  const byKey = rises(page, `read:source:${kit.id}:pad0`)
  await page.keyboard.press('z')
  await byKey
  expect(await serious(page)).toEqual([])
})

test('sends and buses by hand: what goes, what arrives, what is refused, and the chart with both', async ({
  page,
}) => {
  await open(page)
  await page
    .getByRole('button', { name: /^Rope guitar/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'bus…' }).click()
  await page.getByRole('option', { name: 'new bus' }).click()
  await expect.poll(async () => (await project(page)).sends.length).toBe(1)
  const bus = await trackNamed(page, 'Bus 1')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect.poll(() => value(page, `peak:track:${bus.id}`), { intervals: [10] }).toBeGreaterThan(0.001)
  await page.getByRole('button', { name: 'To Bus 1', exact: true }).click()
  await expect(page.getByRole('button', { name: 'From Rope guitar' })).toBeVisible()
  // the bus cannot be sent to itself round another one
  await page.getByRole('button', { name: 'bus…' }).click()
  await page.getByRole('option', { name: 'new bus' }).click()
  await page.getByRole('button', { name: 'To Bus 2', exact: true }).click()
  await page.getByRole('button', { name: 'bus…' }).click()
  await page.getByRole('option', { name: 'Bus 1' }).click()
  await expect(page.getByRole('alert')).toContainText(
    '“Bus 2” cannot be routed to “Bus 1”: this would create a feedback loop, “Bus 1” to “Bus 2” to “Bus 1”.',
  )
  expect((await project(page)).sends.length).toBe(2)
  expect(await serious(page)).toEqual([])
})

test('a print takes the place of its track; it is undone, and printed again after a change in under ten actions', async ({
  page,
}) => {
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
  expect(p.audio[first?.source?.audio ?? '']?.frames).toBe(
    Math.round((((p.loop.end - p.loop.start) * 60) / p.tempo) * p.sampleRate),
  )
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
  await menu(page, /^Actions for/, 'Print again', '[data-region=tracks]')
  await expect
    .poll(async () => (await printed())?.source?.audio, { timeout: 60_000 })
    .not.toBe(first?.source?.audio)
})

own(
  'the simulated player through a chain, recorded: dry is what was played, wet what came out, both aligned by the measured way',
  alone,
  async ({ page }) => {
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
    await page.getByRole('button', { name: 'Turn input on' }).click()
    await page.getByRole('button', { name: 'Measure latency' }).click()
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
            if (Math.abs(v) > 0.05 && (found.length === 0 || i - (found[found.length - 1] ?? 0) > 1000))
              found.push(i)
          })
          return found
        }),
      take,
    )
    const beat = (60 / 107) * 48_000
    for (const found of sides) {
      expect(found.length).toBeGreaterThan(1)
      // each pulse within a sample of the frame that its beat falls on; what the engine itself comes late is
      // part of the way
      found.forEach((at) =>
        expect(Math.abs(at - Math.ceil(Math.round(at / beat) * beat - 1e-6))).toBeLessThanOrEqual(1),
      )
    }
    await page.keyboard.press('Control+z')
    await expect.poll(async () => (await trackNamed(page, 'Line')).takes?.length ?? 0).toBe(0)
    await page.keyboard.press('Control+Shift+z')
    await menu(page, 'Actions for Take 1', 'Keep wet')
    await expect
      .poll(async () => (await project(page)).tracks.find((t) => t.source?.audio === take.wet)?.name)
      .toBe('Take 1 wet, Line')
  },
)

own(
  'the fake microphone through overload and a resonant filter that a follower moves, recorded: the take agrees with the gauges',
  alone,
  async ({ page }) => {
    await open(page)
    const p = empty('Microphone')
    const line: Track = {
      ...newTrack(
        'Guitar',
        { ...newSource('input', { coarse: 1, fine: 0 }), device: 'microphone' },
        'guitar',
      ),
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
    await page.getByRole('button', { name: 'Turn input on' }).click()
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
    // what a follower of this attack and release makes of what was recorded, at the places where the gauges
    // were read
    const [dry = [], wet = []] = await page.evaluate(
      ({ hashes, beats }) =>
        hashes.map((hash) => {
          const [left = new Float32Array(0), right = left] = globalThis.oleaje.sound(hash)?.channels ?? []
          const levels = new Float32Array(left.length)
          const [attack, release] = [0.004, 0.1].map((s) => Math.exp(-1 / (s * 48_000))) as [number, number]
          let level = 0
          for (let i = 0; i < left.length; i++) {
            const x = Math.min(1, Math.max(Math.abs(left[i] ?? 0), Math.abs(right[i] ?? 0)))
            level = x + (x > level ? attack : release) * (level - x)
            levels[i] = level
          }
          return beats.map((beat) => levels[Math.round(((beat * 60) / 107) * 48_000)] ?? 0)
        }),
      { hashes: [take.dry, take.wet], beats: seen.map((s) => s.beat - take.at) },
    )
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
    ).toBeGreaterThan(0.8)
    expect(
      correlation(
        seen.map((s) => s.follower),
        seen.map((s) => s.cutoff),
      ),
    ).toBeGreaterThan(0.98)
    for (const s of seen) expect(s.cutoff).toBeGreaterThan(0.25)
  },
)

test('the wave of a sound is looked at down to its samples, by wheel and by key, and its marks are set as finely as they are seen', async ({
  page,
}) => {
  await open(page)
  // 1.37 s of 311 Hz at the project's own rate: it crosses zero each 77.17 frames
  const { sampleRate } = await project(page)
  const frames = Math.round(1.37 * sampleRate)
  const sine = Float32Array.from(
    { length: frames },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * 311 * i) / sampleRate),
  )
  await drop(page, 'buoy.wav', writeWav({ sampleRate, channels: [sine] }, 32))
  await expect.poll(async () => (await project(page)).tracks.some((t) => t.name === 'buoy')).toBe(true)
  await page.getByRole('button', { name: 'Source', exact: true }).click()
  const params = async (): Promise<Record<string, number>> =>
    (await trackNamed(page, 'buoy')).source?.params ?? {}
  const wave = page.getByRole('img', { name: 'Source of buoy' })
  const box = (await wave.boundingBox())!
  const y = box.y + box.height / 2
  const more = page.getByRole('button', { name: 'Zoom out' })
  await expect(more).toBeDisabled()

  // six octaves about a place, where Alt sets the beginning to a 64th of what a pixel was
  const there = Math.round(box.x + 0.3 * box.width)
  const about = (there - box.x) / box.width
  await page.mouse.move(there, y)
  await page.keyboard.down('Control')
  for (let i = 0; i < 12; i++) await page.mouse.wheel(0, -100)
  await page.keyboard.up('Control')
  await expect(more).toBeEnabled()
  await page.keyboard.down('Alt')
  await page.mouse.move(box.x + 0.6 * box.width, y)
  await page.mouse.down()
  await page.mouse.move(box.x + 0.71 * box.width, y, { steps: 3 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  const pixel = 2 ** -6 / box.width
  await expect
    .poll(async () => Math.abs(((await params()).start ?? 0) - (about + (0.71 - about) * 2 ** -6)) / pixel)
    .toBeLessThan(1.5)

  // without Alt it goes to where the wave crosses zero, if that is within a few pixels
  const atX = (share: number): number => box.x + (about + (share - about) * 2 ** 6) * box.width
  const crossing = (Math.round((about * frames * 622) / sampleRate) * sampleRate) / 622 / frames
  await page.mouse.move(atX(crossing) - 40, y)
  await page.mouse.down()
  await page.mouse.move(atX(crossing) + 3, y, { steps: 2 })
  await page.mouse.up()
  await expect
    .poll(async () => Math.abs(((await params()).start ?? 0) - crossing) * frames)
    .toBeLessThan(1.01)

  // down to samples by key: an arrow is one sample, and undo takes back one step
  const mark = page.getByRole('button', { name: /^Move where the sound begins/ })
  await mark.focus()
  for (let i = 0; i < 20; i++) await page.keyboard.press('+')
  await expect(page.getByRole('button', { name: 'Zoom in' })).toBeDisabled()
  const before = (await params()).start ?? 0
  await page.keyboard.press('ArrowRight')
  await expect.poll(async () => ((await params()).start ?? 0) * frames - before * frames).toBeCloseTo(1, 3)
  expect(await serious(page, { within: 'main' })).toEqual([])
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await params()).start).toBe(before)
  await mark.press('0')
  await expect(more).toBeDisabled()
})
