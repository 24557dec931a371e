import fc from 'fast-check'
import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { BundleError, readBundle, writeBundle } from '@oleaje/core/formats/bundle'
import { audioHash } from '@oleaje/core/formats/hash'
import { resample } from '@oleaje/core/formats/resample'
import { AudioFormatError } from '@oleaje/core/formats/audio-file'
import { readWav, wavHeader, writeWav } from '@oleaje/core/formats/wav'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { RATE, db, noise, peak, sine, toneAt } from './rig'

const wav = (depth: 16 | 24 | 32 = 32) =>
  writeWav({ sampleRate: RATE, channels: [noise(0.1), noise(0.1, 4)] }, depth)
function changed(change: (view: DataView, file: Uint8Array) => void, file = wav()): Uint8Array {
  change(new DataView(file.buffer), file)
  return file
}

describe('WAV', () => {
  it('float comes back bit for bit, 24 bit within its step, 16 bit within its dither', () => {
    const x = [noise(0.1), noise(0.1, 4)]
    expect(readWav(wav(32)).channels).toEqual(x)
    for (const [depth, step] of [
      [24, 2 ** -23],
      [16, 2 ** -14],
    ] as const) {
      const back = readWav(wav(depth)).channels[0]!
      expect(peak(back.map((v, i) => v - x[0]![i]!))).toBeLessThan(step * 1.1)
    }
  })
  it('dither keeps a tone below the last bit, and overs are clipped in integers only', () => {
    const quiet = sine(1000, 1, 0.4 / 32768)
    const back = readWav(writeWav({ sampleRate: RATE, channels: [quiet] }, 16)).channels[0]!
    expect(db(toneAt(back, 1000).amplitude / (0.4 / 32768))).toBeCloseTo(0, 0)
    const over = new Float32Array([2, -2])
    expect(readWav(writeWav({ sampleRate: RATE, channels: [over] }, 32)).channels[0]).toEqual(over)
    expect(
      peak(readWav(writeWav({ sampleRate: RATE, channels: [over] }, 24)).channels[0]!),
    ).toBeLessThanOrEqual(1)
  })
  const bad: [string, Uint8Array, RegExp][] = [
    ['not audio', strToU8('hello, this is no sound at all'), /not a WAV file/],
    ['empty', new Uint8Array(0), /not a WAV file/],
    ['cut short', wav().subarray(0, 2000), /truncated: it should have/],
    ['a lying length', changed((v) => v.setUint32(40, 0x7fffffff, true)), /truncated/],
    ['zero length', writeWav({ sampleRate: RATE, channels: [new Float32Array(0)] }, 16), /no sound in it/],
    ['no channels', changed((v) => v.setUint16(22, 0, true)), /no channels/],
    ['eight channels', changed((v) => v.setUint16(22, 8, true)), /8 channels/],
    ['a nonsense rate', changed((v) => v.setUint32(24, 1_000_000, true)), /sample rate of 1000000/],
    ['samples that are not numbers', changed((v) => v.setFloat32(44 + 400, NaN, true)), /invalid samples/],
    ['compressed', changed((v) => v.setUint16(20, 85, true)), /compressed/],
    ['too few bits', changed((v) => v.setUint16(34, 4, true)), /4 bits per sample/],
    [
      'frames that are none',
      changed((v) => v.setUint16(32, 6, true)),
      /frames have 6 bytes, but its format needs 8/,
    ],
    [
      'data before format',
      Uint8Array.from([...strToU8('RIFF'), 40, 0, 0, 0, ...strToU8('WAVEdata'), 4, 0, 0, 0, 1, 2, 3, 4]),
      /before its format/,
    ],
  ]
  it.each(bad)('%s gets its sentence', (_name, file, sentence) => {
    expect(() => readWav(file)).toThrow(AudioFormatError)
    expect(() => readWav(file)).toThrow(sentence)
  })
  it('five hours are refused by their length, 192 kHz is taken', () => {
    const header = wavHeader({ channels: 1, sampleRate: 4000, depth: 16, frames: 18_000 * 4000 })
    const file = new Uint8Array(44 + 18_000 * 4000 * 2)
    file.set(header)
    expect(() => readWav(file)).toThrow(/300 minutes long/)
    expect(readWav(writeWav({ sampleRate: 192_000, channels: [noise(0.1)] }, 16)).sampleRate).toBe(192_000)
  })
  it('never does anything but read or refuse, whatever bytes come', () => {
    const good = wav(16)
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(60), fc.nat(255)), { maxLength: 6 }), (hits) => {
        const file = good.slice()
        for (const [at, value] of hits) file[at] = value
        try {
          readWav(file)
        } catch (error) {
          expect(error).toBeInstanceOf(AudioFormatError)
        }
      }),
    )
  })
})

describe('resampling', () => {
  it.each([
    [44_100, 48_000],
    [192_000, 48_000],
    [22_050, 48_000],
  ])('from %i to %i keeps a tone and adds none above −90 dB', (from, to) => {
    const x = Float32Array.from({ length: from }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 1000 * i) / from))
    const y = resample(x, from, to)
    const part = y.slice(4800, to - 4800)
    expect(db(toneAt(part, 1000, to).amplitude / 0.5)).toBeCloseTo(0, 1)
    const { amplitude, phase } = toneAt(part, 1000, to)
    expect(
      db(peak(part.map((v, i) => v - amplitude * Math.cos((2 * Math.PI * 1000 * i) / to + phase)))),
    ).toBeLessThan(-90)
  })
})

describe('bundles', () => {
  async function project() {
    const audio = { sampleRate: RATE, channels: [noise(0.2)] }
    const hash = await audioHash(audio)
    const p = newProject('b')
    p.tracks.unshift(newTrack('t', newSource('loop', {}, hash)))
    p.audio[hash] = { name: 'noise', frames: 9600, channels: 1, sampleRate: RATE }
    return { project: p, audio: new Map([[hash, audio]]) }
  }
  it('what is written comes back the same', async () => {
    const b = await project()
    const back = await readBundle(await writeBundle(b))
    expect(back.project).toEqual(b.project)
    expect([...back.audio.values()][0]!.channels).toEqual([...b.audio.values()][0]!.channels)
  })
  it('the same sound has the same name, another sound another', async () => {
    expect(await audioHash({ sampleRate: RATE, channels: [noise(0.2)] })).toBe(
      await audioHash({ sampleRate: RATE, channels: [noise(0.2)] }),
    )
    expect(await audioHash({ sampleRate: RATE, channels: [noise(0.2)] })).not.toBe(
      await audioHash({ sampleRate: RATE, channels: [noise(0.2, 2)] }),
    )
  })
  const json = async (): Promise<Uint8Array> => strToU8(JSON.stringify((await project()).project))
  const bad: [string, () => Uint8Array | Promise<Uint8Array>, RegExp][] = [
    ['no zip', () => strToU8('no zip at all'), /not a zip/],
    ['a broken zip', async () => (await writeBundle(await project())).subarray(0, 300), /broken/],
    [
      'names that climb out',
      async () => zipSync({ '../evil.wav': new Uint8Array(4), 'project.json': await json() }),
      /forbidden name/,
    ],
    ['no project', () => zipSync({ 'audio/a.wav': new Uint8Array(4) }), /no project.json/],
    ['missing sound', async () => zipSync({ 'project.json': await json() }), /“noise” is missing/],
    ['a bomb', () => zipSync({ 'project.json': new Uint8Array(30_000_000) }, { level: 9 }), /unpack to more/],
  ]
  it.each(bad)('%s gets its sentence', async (_name, file, sentence) => {
    const most = { unpacked: 20_000_000, samples: 20_000_000 }
    await expect(readBundle(await file(), most)).rejects.toThrow(BundleError)
    await expect(readBundle(await file(), most)).rejects.toThrow(sentence)
  })
})
