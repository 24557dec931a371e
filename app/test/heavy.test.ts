import { beforeEach, describe, expect, it, vi } from 'vitest'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { impulseNamed } from '@oleaje/core/dsp/impulses'
import { impulseShape } from '@oleaje/core/effects/convolver'
import { apply, together } from '@oleaje/core/project/edit'
import { setParam } from '@oleaje/core/project/value-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { presetOfNew } from '@oleaje/core/project/preset'
import type { Project } from '@oleaje/core/project/schema'
import type { Sound } from '../contract/messages'
import { type DeliveryOrder, usualOrder } from '@oleaje/core/render/delivery'
import type { Heavy } from '../workers/heavy'

type Asked = { [K in keyof Heavy]: (...args: Parameters<Heavy[K]>) => Promise<Awaited<ReturnType<Heavy[K]>>> }
let heavy: Asked
// a worker has one, Node has none
vi.stubGlobal('navigator', {})
vi.mock('comlink', () => ({
  expose: (made: Asked) => {
    heavy = made
  },
  transfer: <T>(x: T) => x,
}))
await import('../workers/heavy')

const RATE = 48_000
const tone = (frames: number, rate = RATE) =>
  Float32Array.from({ length: frames }, (_, i) => 0.25 * Math.sin((2 * Math.PI * 440 * i) / rate))
const fileOf = (channels: Float32Array[], sampleRate = RATE): Blob =>
  new Blob([writeWav({ sampleRate, channels }, 32)])
/** A file read as the page has it read. */
const read = async (file: Blob): Promise<Sound> => (await heavy.readSound(1, file, RATE, () => {}))!

async function crossing(): Promise<{
  project: Project
  sound: { hash: string; sampleRate: number; channels: Float32Array[] }
}> {
  const audio = { sampleRate: RATE, channels: [tone(RATE)] }
  const hash = await audioHash(audio)
  const project = newProject('Night Ferry')
  const track = newTrack('Engine room', newSource('loop', {}, hash), 'engine')
  track.a.nodes = [newEffect('filter', { cutoff: 900 }, 'f')]
  project.tracks.unshift(track)
  project.audio[hash] = { name: 'Engine', frames: RATE, channels: 1, sampleRate: RATE }
  return { project, sound: { hash, ...audio } }
}

describe('reading sounds', () => {
  it('keeps a file of the project’s rate as it is, and names it by its content', async () => {
    const sound = await read(fileOf([tone(1000)]))
    expect(sound.channels).toEqual([tone(1000)])
    expect(sound.hash).toBe(await audioHash({ sampleRate: RATE, channels: [tone(1000)] }))
    expect((await heavy.takeSound([tone(1000)], RATE, RATE)).hash).toBe(sound.hash)
  })
  it('brings another rate to the project’s, as long and as high as before', async () => {
    const {
      channels: [left],
    } = await read(fileOf([tone(44_100, 44_100)], 44_100))
    expect(left).toHaveLength(RATE)
    const rises = [...left!.keys()].filter((i) => i > 0 && left![i - 1]! < 0 && left![i]! >= 0).length
    expect(Math.abs(rises - 440)).toBeLessThanOrEqual(1)
  })
  it('holds a long recording where it cannot be put away, under the name that it would have there', async () => {
    // there is no storage here, as in a browser that gives none
    const take = Float32Array.from({ length: 4000 * 307 + 11 }, (_, i) => Math.sin((i * i) / 1e6) / 3)
    const sound = await heavy.takeSound([take], 4000, 4000)
    expect(sound.long).toBeUndefined()
    expect(sound.channels[0]!.length).toBe(take.length)
    expect(sound.hash).toBe(await audioHash({ sampleRate: 4000, channels: [take] }))
    // a file is still where it was, so it is refused
    await expect(heavy.readSound(2, fileOf([take], 4000), 4000, () => {})).rejects.toThrow(
      'does not allow storage',
    )
  })
  it('says in a plain error what is wrong with a file', async () => {
    const error: unknown = await read(new Blob(['no sound at all'])).catch((e: unknown) => e)
    expect(Object.getPrototypeOf(error)).toBe(Error.prototype)
    expect((error as Error).message).toMatch(/\.$/)
  })
})

describe('pictures of sounds', () => {
  it('are the largest sample of each stretch, either sign, and none is left out', async () => {
    expect([...(await heavy.peaks([Float32Array.of(0.1, -0.5, 0.25, 0, 0, -1)], 3))]).toEqual([0.5, 0.25, 1])
    expect([...(await heavy.peaks([Float32Array.of(0.5)], 4))]).toEqual([0.5, 0, 0, 0])
    const long = await heavy.peaks([tone(10_007).fill(0.1), tone(10_007).fill(-0.5)], 600)
    expect(long.every((v) => v === 0.5)).toBe(true)
  })
  it('show a response as it is used: one that ships, or the sound that was given, mono or stereo', async () => {
    const shipped = await heavy.impulsePeaks(impulseShape({ impulse: 'cabin' }), null, RATE, 50)
    expect(shipped.seconds).toBeCloseTo(impulseNamed('cabin', RATE).left.length / RATE, 9)
    expect(shipped.peaks).toHaveLength(50)
    const own = await heavy.impulsePeaks(impulseShape({ stretch: 2 }), [tone(RATE / 2)], RATE, 10)
    expect(own.seconds).toBeCloseTo(1, 2)
    expect(Math.max(...own.peaks)).toBeGreaterThan(0)
  })
  it('of a chain tell what it does to each frequency', async () => {
    const response = await heavy.chainResponse([newEffect('gain', { level: -6 }, 'g')], RATE)
    expect(response.frames).toBeGreaterThan(0)
    expect(response.sampleRate).toBe(RATE)
  })
})

describe('the loudness of A, B and dry', () => {
  it('is that of one stretch: a branch of −14 dB is 14 LU softer, within 0.2', async () => {
    const { project, sound } = await crossing()
    const track = project.tracks[0]!
    track.a.nodes = []
    track.b = { nodes: [newEffect('gain', { level: -14 }, 'soft')] }
    const found = await heavy.loudnessOf(project, [sound], 'engine', 7.3)
    expect(Math.abs(found.a - found.b - 14)).toBeLessThan(0.2)
    expect(Math.abs(found.a - found.dry)).toBeLessThan(0.01)
    // an effect of the mix comes after the comparison
    project.tracks.at(-1)!.a.nodes = [newEffect('gain', { level: -30 }, 'mix')]
    expect(await heavy.loudnessOf(project, [sound], 'engine', 7.3)).toEqual(found)
  })
})

describe('the picture of a preset', () => {
  it('shows the sound of a track dry and processed', async () => {
    const { project, sound } = await crossing()
    const made = presetOfNew(newEffect('gain', { level: -6 }, 'g'), 'Gain')
    const { dry, wet } = await heavy.presetPicture(project, [sound], 'engine', made)
    expect(dry.peaks).toHaveLength(wet.peaks.length)
    const loudest = (of: Float32Array): number => of.reduce((most, v) => Math.max(most, v))
    expect(loudest(wet.peaks) / loudest(dry.peaks)).toBeCloseTo(10 ** (-6 / 20), 2)
    expect(loudest(dry.bands) - loudest(wet.bands)).toBeCloseTo(6, 1)
  })
})

describe('bundles', () => {
  it('come back as they went', async () => {
    const { project, sound } = await crossing()
    const back = await heavy.unpack(await heavy.pack(project, [sound]))
    expect(back.project).toEqual(project)
    expect(back.sounds).toEqual([sound])
  })
  it('that are none are refused with a sentence', async () => {
    await expect(heavy.unpack(new Blob([new Uint8Array(30)]))).rejects.toThrow(/\.$/)
  })
})

describe('a render', () => {
  const told: number[] = []
  beforeEach(() => {
    told.length = 0
  })

  const order = (o: Partial<DeliveryOrder>, seconds = 3): DeliveryOrder => ({
    ...usualOrder,
    range: 'beats',
    beats: [0, seconds * 2],
    tail: 0,
    ...o,
  })

  it('is a WAV file of the range that was asked for, and tells how far it is', async () => {
    const { project, sound } = await crossing()
    const at120 = { ...project, tempo: 120 }
    const made = await heavy.deliver(1, at120, [sound], order({}, 4), 0, null, [], (done) => {
      told.push(done)
    })
    const wav = readWav(new Uint8Array(await made!.blob.arrayBuffer()))
    expect(wav.channels[0]).toHaveLength(4 * RATE)
    expect(Math.max(...wav.channels[0]!)).toBeGreaterThan(0.1)
    expect([...told].sort((a, b) => a - b)).toEqual(told)
    expect(told.every((v) => v > 0 && v <= 1)).toBe(true)
  })
  it('says how loud it is and whether it went over, and can be made softer or limited', async () => {
    const { project, sound } = await crossing()
    const loud = apply(
      project,
      together(setParam('engine', 'level', 12), setParam(project.tracks[1]!.id, 'level', 7)),
    ).next
    const render = async (kind: DeliveryOrder['level']['kind']) =>
      (await heavy.deliver(
        4,
        loud,
        [sound],
        order({ depth: 32, level: { kind, loudness: -14, ceiling: -1 } }),
        0,
        null,
        [],
        () => {},
      ))!
    const over = await render('as it is')
    const highest = async (made: { blob: Blob }): Promise<number> =>
      Math.max(...readWav(new Uint8Array(await made.blob.arrayBuffer())).channels[0]!.map(Math.abs))
    expect(over.figures.overs).toBeGreaterThan(0)
    expect(over.figures.truePeakDb).toBeGreaterThan(0)
    const softer = await render('peak')
    expect(softer.figures.truePeakDb).toBeCloseTo(-1, 3)
    expect(softer.figures.loudness - over.figures.loudness).toBeCloseTo(-1 - over.figures.truePeakDb, 1)
    const limited = await render('limited')
    expect([softer.figures.overs, limited.figures.overs]).toEqual([0, 0])
    expect(limited.figures.truePeakDb).toBeLessThan(-0.9)
    expect(await highest(limited)).toBeLessThan(1)
  })
  it('is the same file where another worker records some of its tracks', async () => {
    const { project, sound } = await crossing()
    const wanted = order({ depth: 32 }, 3)
    const { port1, port2 } = new MessageChannel()
    const which = { share: 0, workers: 2 }
    const recorded = heavy.record(project, [sound], wanted, null, which, port1)
    const made = await heavy.deliver(5, project, [sound], wanted, 0, null, [port2], () => {})
    await recorded
    port2.close()
    const alone = await heavy.deliver(6, project, [sound], wanted, 0, null, [], () => {})
    const [a, b] = await Promise.all([made, alone].map(async (m) => Buffer.from(await m!.blob.arrayBuffer())))
    expect(a?.equals(b!)).toBe(true)
  })
  it('stops when it is cancelled, and another goes on', async () => {
    const { project, sound } = await crossing()
    const stopped = heavy.deliver(2, project, [sound], order({}, 60), 0, null, [], () => {
      void heavy.cancel(2)
    })
    const other = heavy.deliver(3, project, [sound], order({ depth: 16 }, 2), 0, null, [], () => {})
    expect(await stopped).toBeNull()
    expect((await other)?.blob.size).toBeGreaterThan(2 * RATE * 3)
  })
})
