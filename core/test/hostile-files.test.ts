import { strToU8, zipSync } from 'fflate'
import { WaveFile } from 'wavefile'
import { describe, expect, it } from 'vitest'
import { BundleError, readBundle, writeBundle } from '@oleaje/core/formats/bundle'
import { audioHash } from '@oleaje/core/formats/hash'
import { AudioFormatError } from '@oleaje/core/formats/audio-file'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { Random } from '@oleaje/core/dsp/random'
import { readJson } from '@oleaje/core/project/json-text'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { db, noise, peak, sine, toneAt } from './rig'

const RATE = 44_100
const bytes = (...parts: (string | number[] | Uint8Array)[]): Uint8Array =>
  Uint8Array.from(parts.flatMap((p) => (typeof p === 'string' ? [...strToU8(p)] : [...p])))
const u16 = (n: number): number[] => [n & 255, (n >> 8) & 255]
const u32 = (n: number): number[] => [...u16(n & 0xffff), ...u16(n >>> 16)]
const GUID_TAIL = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71]

/** A WAV file of stereo 16 bits, put together by hand. */
function built(o: {
  form?: string
  whole?: number
  dataSize?: number
  bits?: number
  frame?: number
  guid?: number[]
  extensible?: boolean
  ds64?: boolean
  code?: number
  data: number[]
}): Uint8Array {
  const { form = 'RIFF', bits = 16, code = 1, data } = o
  const frame = o.frame ?? 2 * Math.ceil(bits / 8)
  const format = [
    ...u16(o.extensible ? 0xfffe : code),
    ...u16(2),
    ...u32(RATE),
    ...u32(RATE * frame),
    ...u16(frame),
    ...u16(bits),
    ...(o.extensible ? [...u16(22), ...u16(bits), ...u32(3), ...u16(code), ...(o.guid ?? GUID_TAIL)] : []),
  ]
  const ds64 = o.ds64
    ? bytes(
        'ds64',
        u32(28),
        u32(36 + data.length),
        u32(0),
        u32(data.length),
        u32(0),
        u32(data.length / frame),
        u32(0),
        u32(0),
      )
    : []
  return bytes(
    form,
    u32(o.whole ?? 36 + data.length),
    'WAVE',
    ds64 as Uint8Array,
    'fmt ',
    u32(format.length),
    format,
    'data',
    u32(o.dataSize ?? data.length),
    data,
  )
}
const samples = [0, 0x40, 0, 0xc0, 0xff, 0x7f, 0, 0x80]
const heard = [
  [0.5, 32767 / 32768],
  [-0.5, -1],
]
const channels = (file: Uint8Array): number[][] => readWav(file).channels.map((c) => [...c])

describe('WAV files of kinds that are about', () => {
  it.each([
    ['of unknown length, by zeros', built({ data: samples, whole: 0, dataSize: 0 })],
    ['of unknown length, by ones', built({ data: samples, whole: 0xffffffff, dataSize: 0xffffffff })],
    ['RF64', built({ data: samples, form: 'RF64', whole: 0xffffffff, dataSize: 0xffffffff, ds64: true })],
    ['BW64', built({ data: samples, form: 'BW64', whole: 0xffffffff, dataSize: 0xffffffff, ds64: true })],
    ['extensible', built({ data: samples, extensible: true })],
  ])('%s are read', (_, file) => {
    expect(channels(file)).toEqual(heard)
  })
  it('of 20 bits are read from the upper end of their three bytes', () => {
    expect(channels(built({ bits: 20, data: [0, 0, 0x40, 0, 0, 0xc0] }))).toEqual([[0.5], [-0.5]])
  })
  it.each([
    [
      'a sub-format of its own',
      built({ data: samples, extensible: true, guid: [1, ...GUID_TAIL.slice(1)] }),
      /unknown format/,
    ],
    ['frames that its format does not make', built({ data: samples, frame: 6 }), /frames have 6 bytes/],
    [
      '64 bits beyond what 32 hold',
      bytes(
        ...[built({ bits: 64, code: 3, data: [...new Uint8Array(new Float64Array([1e300, 0]).buffer)] })],
      ),
      /invalid samples/,
    ],
    ['no sound, and a size that says so', built({ data: [], dataSize: 0 }), /no sound in it/],
  ])('%s gets its sentence', (_, file, sentence) => {
    expect(() => readWav(file)).toThrow(AudioFormatError)
    expect(() => readWav(file)).toThrow(sentence)
  })
  const RUNS = process.env.OLEAJE_LONG ? 5000 : 500
  it(`${RUNS} mutated ones are read as another reader reads them, or refused with a sentence`, () => {
    const random = new Random(311)
    const whole = (n: number): number => Math.floor(random.next() * n)
    let read = 0
    for (let i = 0; i < RUNS; i++) {
      const depth = ([16, 24, 32] as const)[i % 3]!
      const file = writeWav(
        {
          sampleRate: 48_000,
          channels: i % 2 ? [noise(0.004, i + 1)] : [noise(0.004, i + 1), noise(0.004, i + 2)],
        },
        depth,
      ).slice()
      for (let hits = whole(3); hits >= 0; hits--) file[whole(i % 4 === 0 ? file.length : 44)] = whole(256)
      let mine: Float32Array[]
      try {
        mine = readWav(file).channels
      } catch (error) {
        expect(error).toBeInstanceOf(AudioFormatError)
        expect((error as Error).message).toMatch(/^This WAV file|^This is not a WAV file|^This sound is/)
        continue
      }
      let other: number[][]
      try {
        const wave = new WaveFile(file)
        const float = (wave.fmt as { audioFormat: number }).audioFormat === 3
        const bits = (wave.fmt as { bitsPerSample: number }).bitsPerSample
        const all = wave.getSamples(false, Float64Array) as unknown as Float64Array | Float64Array[]
        const raw = Array.isArray(all) ? all : [all]
        other = raw.map((c) =>
          [...c].map((x) =>
            float ? x : bits === 8 ? (x - 128) / 128 : x / 2 ** (8 * Math.ceil(bits / 8) - 1),
          ),
        )
      } catch {
        continue
      }
      // it takes what comes after the sound for sound where a size is odd; what both have is the same
      read++
      for (const [c, x] of mine.entries())
        for (let k = 0; k < Math.min(x.length, other[c]?.length ?? 0); k++)
          expect(x[k], `file ${i}`).toBe(Math.fround(other[c]![k]!))
    }
    expect(read).toBeGreaterThan(RUNS / 4)
  })
})

describe('JSON', () => {
  it('with millions of small things is refused before anything is built', () => {
    for (const text of [`[${'0,'.repeat(8_000_000)}0]`, `[${'{},'.repeat(5_000_000)}0]`]) {
      const { heapUsed } = process.memoryUsage()
      const cpu = process.cpuUsage()
      expect(() => readJson(text, 'project file')).toThrow(/more than 1,000,000 values/)
      const { user, system } = process.cpuUsage(cpu)
      expect((user + system) / 1000).toBeLessThan(2000)
      expect(process.memoryUsage().heapUsed - heapUsed).toBeLessThan(50e6)
    }
  })
  it('takes commas and brackets within texts for what they are', () => {
    expect(readJson(`{"a":"${',[{'.repeat(400_000)}"}`, 'project file')).toEqual({ a: ',[{'.repeat(400_000) })
  })
  it.each(['__proto__', 'constructor', 'prototype'])('%s is no name, however it is written', (name) => {
    const escaped = [...name].map((c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`).join('')
    expect(() => readJson(`{"a":[{"${name}":1}]}`, 'project file')).toThrow(/forbidden name/)
    expect(() => readJson(`{"a":[{"${escaped}":1}]}`, 'project file')).toThrow(/forbidden name/)
  })
})

describe('bundles that mean no good', () => {
  async function skerries(rate = 48_000) {
    const audio = { sampleRate: rate, channels: [sine(311, 0.37, 0.5)] }
    const hash = await audioHash(audio)
    const p = structuredClone(newProject('Skerries'))
    const track = structuredClone(newTrack('t', newSource('loop', {}, hash)))
    track.a.nodes = [{ ...newEffect('convolver'), data: { audio: hash } }]
    p.tracks.unshift(track)
    p.audio[hash] = { name: 'rope', frames: audio.channels[0]!.length, channels: 1, sampleRate: rate }
    return { project: p, audio: new Map([[hash, audio]]), hash }
  }
  const refused = async (
    file: Uint8Array,
    sentence: RegExp,
    most?: { unpacked: number; samples: number },
  ): Promise<void> => {
    await expect(readBundle(file, most)).rejects.toThrow(sentence)
    await expect(readBundle(file, most)).rejects.toBeInstanceOf(BundleError)
  }
  const find = (file: Uint8Array, signature: number[]): number[] => {
    const at: number[] = []
    for (let i = 0; i + 4 <= file.length; i++) if (signature.every((b, k) => file[i + k] === b)) at.push(i)
    return at
  }

  it('files that lie over each other are refused', async () => {
    const { project, hash } = await skerries()
    const made = zipSync({
      'project.json': strToU8(JSON.stringify(project)),
      [`audio/${hash}.wav`]: new Uint8Array(9999),
    })
    const view = new DataView(made.buffer)
    const [first, second] = find(made, [0x50, 0x4b, 1, 2])
    // the second file is said to lie where the first does, with all that is said of it
    for (const [field, size] of [
      [10, 2],
      [16, 4],
      [20, 4],
      [24, 4],
      [42, 4],
    ] as const)
      for (let k = 0; k < size; k++) view.setUint8(second! + field + k, view.getUint8(first! + field + k))
    await refused(made, /broken/)
  })
  it('a checksum that is not that of the content is refused', async () => {
    const { project, audio } = await skerries()
    const made = await writeBundle({ project, audio })
    const view = new DataView(made.buffer)
    for (const [signature, field] of [
      [[0x50, 0x4b, 3, 4], 14],
      [[0x50, 0x4b, 1, 2], 16],
    ] as const)
      for (const at of find(made, [...signature]))
        view.setUint32(at + field, view.getUint32(at + field, true) ^ 1, true)
    await refused(made, /broken/)
  })
  it('one with a password, and one with nothing in it, get their own sentences', async () => {
    const made = zipSync({ 'project.json': strToU8('{}') })
    const view = new DataView(made.buffer)
    for (const [signature, field] of [
      [[0x50, 0x4b, 3, 4], 6],
      [[0x50, 0x4b, 1, 2], 8],
    ] as const)
      for (const at of find(made, [...signature])) view.setUint16(at + field, 1, true)
    await refused(made, /password/)
    await refused(zipSync({}), /empty/)
  })
  it('what is unpacked is counted as it comes, whatever sizes are promised', async () => {
    const made = zipSync(
      { 'project.json': strToU8(JSON.stringify((await skerries()).project) + ' '.repeat(30_000_000)) },
      { level: 9 },
    )
    const view = new DataView(made.buffer)
    for (const [signature, field] of [
      [[0x50, 0x4b, 3, 4], 22],
      [[0x50, 0x4b, 1, 2], 24],
    ] as const)
      for (const at of find(made, [...signature])) view.setUint32(at + field, 1000, true)
    await refused(made, /broken|unpack to more/, { unpacked: 2_000_000, samples: 1e9 })
  })
  it('sounds are counted as they are held: 8 bits grow fourfold', async () => {
    const { project, hash } = await skerries()
    const eight = bytes(
      'RIFF',
      u32(36 + 400_000),
      'WAVE',
      'fmt ',
      u32(16),
      u16(1),
      u16(1),
      u32(48_000),
      u32(48_000),
      u16(1),
      u16(8),
      'data',
      u32(400_000),
      new Uint8Array(400_000).fill(130),
    )
    await expect(
      readBundle(
        zipSync({ 'project.json': strToU8(JSON.stringify(project)), [`audio/${hash}.wav`]: eight }),
        {
          unpacked: 2_000_000,
          samples: 1_000_000,
        },
      ),
    ).rejects.toThrow(/sounds of this bundle would take more/)
  })
  it('a sound under the name of another is refused: a hash is computed, never believed', async () => {
    const { project, hash } = await skerries()
    const other = writeWav({ sampleRate: 48_000, channels: [noise(0.1)] }, 32)
    await refused(
      zipSync({ 'project.json': strToU8(JSON.stringify(project)), [`audio/${hash}.wav`]: other }),
      /“rope” in this bundle does not match/,
    )
  })
  it('a sound of another rate comes at the project’s, under its new name, wherever it is used', async () => {
    const made = await skerries(RATE)
    const { project, audio } = await readBundle(await writeBundle(made))
    const [[hash, sound]] = [...audio] as [
      [string, { sampleRate: number; channels: readonly Float32Array[] }],
    ]
    expect(hash).not.toBe(made.hash)
    expect(await audioHash(sound as never)).toBe(hash)
    expect([sound.sampleRate, project.audio[hash]?.sampleRate, project.audio[hash]?.frames]).toEqual([
      48_000,
      48_000,
      sound.channels[0]!.length,
    ])
    expect([
      project.tracks[0]!.source!.audio,
      (project.tracks[0]!.a.nodes[0] as unknown as { data: { audio: string } }).data.audio,
    ]).toEqual([hash, hash])
    // sine() counts its samples at 48 kHz, so what was meant at 44.1 sounds that much lower
    const part = sound.channels[0]!.slice(2000, -2000)
    const { amplitude, phase } = toneAt(part, (311 * RATE) / 48_000)
    expect(db(amplitude / 0.5)).toBeCloseTo(0, 1)
    expect(
      db(
        peak(
          part.map(
            (v, i) => v - amplitude * Math.cos((((2 * Math.PI * 311 * RATE) / 48_000) * i) / 48_000 + phase),
          ),
        ),
      ),
    ).toBeLessThan(-50)
  })
})
