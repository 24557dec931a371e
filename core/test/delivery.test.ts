import { strFromU8, unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { bytesInMemory } from '@oleaje/core/formats/byte-asks'
import { StoredZip, joinedParts } from '@oleaje/core/formats/zip-parts'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import { readWav } from '@oleaje/core/formats/wav'
import { Fft } from '@oleaje/core/dsp/fft'
import { kaiser } from '@oleaje/core/dsp/sinc-table'
import { addBus, addSend } from '@oleaje/core/project/routing'
import { together } from '@oleaje/core/project/edit'
import { addNode, addTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { takeSnapshot } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import { deliver } from '@oleaje/core/render/deliver'
import { type DeliveryFile, type DeliveryOrder, planDelivery, usualOrder } from '@oleaje/core/render/delivery'
import { planRender } from '@oleaje/core/render/render'
import { soundThrough } from '@oleaje/core/render/sound-through'
import { presetOfTrack } from '@oleaje/core/project/preset'
import { songEnd } from '@oleaje/core/render/ranges'
import { edited, projectOf } from './project-rig'
import { RATE, db, noise, peak, rms, sine } from './rig'

type Rig = ReturnType<typeof projectOf>

async function written(rig: Rig, file: DeliveryFile) {
  const parts: Uint8Array[] = []
  const work = deliver(file, rig.audio)
  for (;;) {
    const step = await work.next()
    if (step.done) return { bytes: Buffer.concat(parts), figures: step.value }
    parts.push(step.value.bytes)
  }
}
const order = (o: Partial<DeliveryOrder>): DeliveryOrder => ({ ...usualOrder, depth: 32, tail: 0, ...o })
async function heard(rig: Rig, o: Partial<DeliveryOrder>): Promise<Float32Array[][]> {
  const files = planDelivery(rig.project, order(o))
  return Promise.all(files.map(async (f) => [...readWav((await written(rig, f)).bytes).channels]))
}
const left = async (rig: Rig, o: Partial<DeliveryOrder>): Promise<Float32Array> =>
  (await heard(rig, o))[0]?.[0] ?? new Float32Array()
const looped = (p: Project, start: number, end: number): Project => ({ ...p, loop: { on: true, start, end } })

/** Samples that differ, those that only one has included. */
const different = (a: Float32Array, b: Float32Array): number =>
  Math.abs(a.length - b.length) + a.reduce((n, x, i) => n + (i < b.length && x !== b[i] ? 1 : 0), 0)

/** Three tracks, one with a send to a bus, one ducked by another, and a mix with a drive. */
function song(): Rig {
  const rig = projectOf(noise(3, 5, 0.3), [newEffect('filter', { cutoff: 900 }, 'f')])
  const track = (name: string, nodes: Parameters<typeof addNode>[0][]) => {
    const t = newTrack(name, newSource('loop', {}, 'x', `${name}-src`), name)
    t.a.nodes = nodes
    return addTrack(t)
  }
  const project = edited(
    rig.project,
    track('keys', [newEffect('delay', { time: 0.11 }, 'd')]),
    track('bass', [newEffect('drive', {}, 'dr')]),
    addBus('Room', 'room'),
    addNode(newEffect('reverb', {}, 'r'), { startOf: 'room' }),
    addSend('keys', 'room', { id: 's', level: -9 }),
    addModulator('bass', 'follower', { id: 'fo', listens: { track: 't', point: 'before' } }),
    addLink('fo', { owner: 'bass', param: 'level' }, 0.2, 0.8),
    addNode(newEffect('drive', { drive: 12 }, 'md'), { startOf: 'mix' }),
  )
  return { ...rig, project: looped(project, 0, 5) }
}

describe('stems', () => {
  it('are all that goes into the mix, and together the mix before its effects', async () => {
    const rig = song()
    const files = planDelivery(rig.project, order({ what: 'stems' }))
    expect(files.map((f) => f.stem.name)).toEqual(['t', 'keys', 'bass', 'Room'])
    const stems = (await heard(rig, { what: 'stems' })).map(([l]) => l as Float32Array)
    const bare = { ...rig, project: edited(rig.project, (p) => void (p.tracks.at(-1)!.a.nodes = [])) }
    const mix = await left(bare, {})
    const rest = mix.map((x, i) => x - stems.reduce((sum, s) => sum + (s[i] ?? 0), 0))
    for (const s of stems) expect(db(rms(s))).toBeGreaterThan(-60)
    expect(db(peak(rest)) - db(peak(mix))).toBeLessThan(-120)
  })

  it('the difference and dry are what wet is made of', async () => {
    const rig = song()
    const [[dry], [wet]] = (await heard(rig, { what: 'both', track: 'keys' })) as Float32Array[][]
    const difference = await left(rig, { what: 'difference', track: 'keys' })
    expect(peak(difference)).toBeGreaterThan(0.01)
    expect(peak(difference.map((x, i) => x + dry![i]! - wet![i]!))).toBeLessThan(1e-6)
  })

  it('wet only has nothing of the dry sound, whatever moves Wet', async () => {
    const rig = projectOf(sine(311, 2, 0.4), [newEffect('delay', { time: 0.2, feedback: 0, wet: 0.3 }, 'd')])
    const project = edited(
      rig.project,
      addModulator('t', 'lfo', { id: 'l' }),
      addLink('l', { owner: 'd', param: 'wet' }, 0, 1),
    )
    const only = await left({ ...rig, project: looped(project, 0, 2) }, { what: 'wet', track: 't' })
    expect(peak(only.subarray(0, 0.19 * RATE))).toBe(0)
    expect(peak(only.subarray(0.25 * RATE))).toBeGreaterThan(0.2)
  })

  it('branches and snapshots are files of their own, named', () => {
    const rig = song()
    const project = edited(
      rig.project,
      takeSnapshot('t', 1, 'Low'),
      together(setParam('f', 'cutoff', 3000), takeSnapshot('t', 4, 'Low')),
    )
    const files = planDelivery(
      project,
      order({ what: 'snapshots', track: 't', name: '{number} {what}/{range}: {tempo}' }),
    )
    expect(files.map((f) => f.name)).toEqual(['01 t Low loop 120 bpm.wav', '02 t Low loop 120 bpm.wav'])
    const same = planDelivery(project, order({ what: 'snapshots', track: 't', name: 'a' }))
    expect(same.map((f) => f.name)).toEqual(['a.wav', 'a 2.wav'])
    expect(() => planDelivery(project, order({ what: 'branches', track: 't' }))).toThrow(/no split/)
  })
})

describe('ranges', () => {
  it('a part of the song is that part of the whole, bit for bit', async () => {
    const rig = song()
    const whole = await left(rig, { range: 'beats', beats: [0, 5] })
    const part = await left(rig, { range: 'beats', beats: [2.2, 4], begin: 'song' })
    const from = Math.round(1.1 * RATE)
    expect(different(part, whole.subarray(from, from + part.length))).toBe(0)
    const fresh = await left(rig, { range: 'beats', beats: [2.2, 4] })
    expect(different(fresh, part)).toBeGreaterThan(1000)
  })

  it('one per section, in their order; the song ends with the last of them', () => {
    const rig = song()
    expect(() => planDelivery(rig.project, order({ range: 'sections' }))).toThrow(/no sections/)
    const project = {
      ...rig.project,
      sections: [
        { id: 'b', name: 'Crossing', start: 3, end: 7 },
        { id: 'a', name: 'Pier', start: 0, end: 3 },
      ],
    }
    const files = planDelivery(project, order({ range: 'sections' }))
    expect(files.map((f) => f.name)).toEqual(['test Mix Pier.wav', 'test Mix Crossing.wav'])
    expect(songEnd(project)).toBe(7)
  })

  it.each([0, 44_100])(
    'a folded loop has no seam: its join is as smooth as its middle (rate %d)',
    async (rate) => {
      // the sound is as long as the loop, which holds whole periods, and the reverb rings on past it
      const rig = projectOf(sine(871 / 2.8, 2.8, 0.4), [newEffect('reverb', { size: 0.7, wet: 0.5 }, 'r')])
      const project = looped(rig.project, 0, 5.6)
      const round = await left({ ...rig, project }, { tail: 'folded', rate })
      expect(round).toHaveLength(Math.round(2.8 * (rate || RATE)))
      const twice = Float32Array.from([...round, ...round])
      // all that is above 1.7 kHz, against the tone
      const high = (at: number): number => {
        const found = spectrumOf(twice, at)
        const most = (part: Float64Array): number => part.reduce((m, x) => Math.max(m, x), 0)
        return db(most(found.slice(600)) / most(found))
      }
      expect(high(round.length / 2)).toBeLessThan(-110)
      expect(high(round.length - SIZE / 2)).toBeLessThan(-110)
      // and a loop that is cut off has one
      const cut = await left({ ...rig, project }, { tail: 0, rate })
      twice.set(cut)
      twice.set(cut, cut.length)
      expect(high(round.length - SIZE / 2)).toBeGreaterThan(-80)
    },
  )
})

/** Magnitudes of a stretch, through a Kaiser window whose side lobes are below −140 dB. */
const SIZE = 1 << 14
function spectrumOf(x: Float32Array, from: number): Float64Array {
  const [re, im] = [new Float64Array(SIZE), new Float64Array(SIZE)]
  for (let i = 0; i < SIZE; i++) re[i] = (x[from + i] ?? 0) * kaiser((2 * (i + 0.5)) / SIZE - 1, 20)
  new Fft(SIZE).forward(re, im)
  return re.slice(0, SIZE / 2).map((v, k) => Math.hypot(v, im[k] ?? 0))
}

describe('a tail that is waited for', () => {
  it('is that of what is heard, not of another track', () => {
    const { project } = song()
    const tailOf = (track: string): number => {
      const plan = planRender(project, { track, from: 0, to: 1.1, tail: 'auto' })
      return (plan.frames - plan.songFrames) / RATE
    }
    // only the keys go into the bus with the reverb
    expect(tailOf('keys')).toBeGreaterThan(tailOf('bass') + 0.5)
  })
})

describe('a preset over one sound', () => {
  it('that needs a sound of its own is refused in a sentence, not rendered without it', async () => {
    const rig = projectOf(noise(0.37, 3, 0.3), [{ ...newEffect('convolver'), data: { sound: 'y' } }])
    const project = {
      ...rig.project,
      audio: { ...rig.project.audio, y: { ...rig.project.audio.x!, name: 'Quay' } },
    }
    const preset = { ...presetOfTrack(project, 't', 'Quay')!, audio: { y: project.audio.y } }
    await expect(soundThrough(preset, 'x', rig.audio(), 107)).rejects.toThrow(/works with the sound “Quay”/)
  })
})

describe('rates', () => {
  it.each([44_100, 88_200, 96_000])(
    'at %d Hz a tone keeps its level within 0.05 dB, with nothing else above −100 dB',
    async (rate) => {
      for (const hz of [311, 17_011, 19_987]) {
        const rig = projectOf(sine(hz, 2, 0.5), [])
        const y = await left({ ...rig, project: looped(rig.project, 0, 2) }, { rate })
        const found = spectrumOf(y, 4000)
        const at = (hz / rate) * SIZE
        const tone = found.reduce((most, v) => Math.max(most, v), 0)
        const rest = found.reduce((most, v, k) => (Math.abs(k - at) > 16 ? Math.max(most, v) : most), 0)
        expect(db(rest / tone)).toBeLessThan(-100)
        // half a second of whole cycles
        const whole = Math.round((rate * Math.floor(hz / 2)) / hz)
        const amplitude = rms(y.subarray(4000, 4000 + whole)) * Math.SQRT2
        expect(Math.abs(db(amplitude / 0.5))).toBeLessThan(0.05)
      }
    },
  )
})

describe('what a rate has no room for', () => {
  it.each([22_051, 22_700, 23_911])('%d Hz leaves nothing above −100 dB at 44.1 kHz', async (hz) => {
    const rig = projectOf(sine(hz, 2, 0.5), [])
    const y = await left({ ...rig, project: looped(rig.project, 0, 2) }, { rate: 44_100 })
    // the ends of the tone are no tone
    expect(db(peak(y.subarray(4000, y.length - 4000)) / 0.5)).toBeLessThan(-100)
  })
})

describe('levels', () => {
  const burst = (): Rig => {
    const x = noise(4, 9, 0.1)
    for (let i = 0; i < x.length; i += 24_011) x[i] = 0.9
    const rig = projectOf(x, [])
    return { ...rig, project: looped(rig.project, 0, 7) }
  }

  it.each([
    [-30, -1],
    [-16, -1],
    [-12, -3],
  ])('a target of %d LUFS under %d dBTP is met within 0.1 LU', async (loudness, ceiling) => {
    const rig = burst()
    const [file] = planDelivery(rig.project, order({ level: { kind: 'loudness', loudness, ceiling } }))
    const { bytes, figures } = await written(rig, file!)
    expect(Math.abs(figures.loudness - loudness)).toBeLessThan(0.1)
    expect(figures.truePeakDb).toBeLessThanOrEqual(ceiling + 0.01)
    expect(figures.level.missed).toBe(0)
    expect(readWav(bytes).channels[0]!.length).toBe(3.5 * RATE)
  })

  it('a true peak is met exactly, silence stays silent, and a target out of reach is said to be missed', async () => {
    const rig = burst()
    const [file] = planDelivery(rig.project, order({ level: { kind: 'peak', loudness: 0, ceiling: -2.5 } }))
    expect((await written(rig, file!)).figures.truePeakDb).toBeCloseTo(-2.5, 2)
    const silent = projectOf(new Float32Array(RATE), [])
    const p = { ...silent, project: looped(silent.project, 0, 1) }
    const [none] = planDelivery(p.project, order({ level: { kind: 'loudness', loudness: -14, ceiling: -1 } }))
    expect((await written(p, none!)).figures.level.gain).toBe(0)
    const [loud] = planDelivery(
      rig.project,
      order({ level: { kind: 'loudness', loudness: 2, ceiling: -20 } }),
    )
    expect((await written(rig, loud!)).figures.level.missed).toBeGreaterThan(1)
  })
})

describe('formats', () => {
  it.each([16, 24] as const)('FLAC of %d bit has the samples of WAV of the same depth', async (depth) => {
    const rig = song()
    const [wav] = planDelivery(rig.project, order({ depth }))
    const [flac] = planDelivery(rig.project, order({ depth, format: 'flac' }))
    const full = 2 ** (depth - 1)
    const [wanted] = readWav((await written(rig, wav!)).bytes).channels
    const { bytes } = await written(rig, flac!)
    const found: number[] = []
    for await (const piece of audioPieces(bytesInMemory(new Uint8Array(bytes))))
      for (const x of piece.channels[0]!) found.push(Math.round(x * (full - 1)))
    // the package that reads FLAC takes the largest sample for 1
    expect(
      different(
        Float32Array.from(found),
        wanted!.map((x) => Math.round(x * full)),
      ),
    ).toBe(0)
  })

  it('MP3 is as long and as loud', async () => {
    const rig = song()
    const [mp3] = planDelivery(rig.project, order({ format: 'mp3' }))
    const { bytes, figures } = await written(rig, mp3!)
    let frames = 0
    for await (const piece of audioPieces(bytesInMemory(new Uint8Array(bytes))))
      frames += piece.channels[0]!.length
    expect(frames / RATE).toBeGreaterThanOrEqual(figures.seconds)
    expect(frames / RATE).toBeLessThan(figures.seconds + 0.1)
  })

  it('several files are one zip, stored as they are', async () => {
    const parts: Uint8Array[] = []
    const zip = new StoredZip((part) => void parts.push(part.slice()))
    for (const name of ['Fog pad', 'Hull bass'])
      await zip.add(`${name}.wav`, bytesInMemory(new TextEncoder().encode(name)))
    await zip.end()
    const found = unzipSync(joinedParts(parts))
    expect(Object.entries(found).map(([name, bytes]) => [name, strFromU8(bytes)])).toEqual([
      ['Fog pad.wav', 'Fog pad'],
      ['Hull bass.wav', 'Hull bass'],
    ])
  })

  it('combinations that do not exist are refused in a sentence', () => {
    const { project } = song()
    expect(() => planDelivery(project, order({ format: 'flac', depth: 32 }))).toThrow(/16 or 24 bit/)
    expect(() => planDelivery(project, order({ format: 'mp3', rate: 96_000 }))).toThrow(/44.1 or 48 kHz/)
    expect(() => planDelivery(project, order({ range: 'beats', beats: [3, 3] }))).toThrow(/end after/)
  })
})
