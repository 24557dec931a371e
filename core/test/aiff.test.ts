import { describe, expect, it } from 'vitest'
import { readAiff } from '@oleaje/core/formats/aiff'
import { readAudio } from '@oleaje/core/formats/read-audio'
import { noise, sine } from './rig'

interface Kind {
  readonly type?: string
  readonly bits: number
  readonly bytes: number
  readonly write: (v: DataView, at: number, x: number) => void
}
const int = (v: number, bits: number): number => Math.round(v * (2 ** (bits - 1) - 1))
const kinds: Record<string, Kind> = {
  '8 bit': { bits: 8, bytes: 1, write: (v, at, x) => v.setInt8(at, int(x, 8)) },
  '16 bit': { bits: 16, bytes: 2, write: (v, at, x) => v.setInt16(at, int(x, 16)) },
  '24 bit': {
    bits: 24,
    bytes: 3,
    write: (v, at, x) => {
      v.setInt16(at, int(x, 24) >> 8)
      v.setUint8(at + 2, int(x, 24) & 255)
    },
  },
  '32 bit': { bits: 32, bytes: 4, write: (v, at, x) => v.setInt32(at, int(x, 32)) },
  'C, none': { type: 'NONE', bits: 16, bytes: 2, write: (v, at, x) => v.setInt16(at, int(x, 16)) },
  'C, low end first': {
    type: 'sowt',
    bits: 16,
    bytes: 2,
    write: (v, at, x) => v.setInt16(at, int(x, 16), true),
  },
  'C, low end first, 24 bit': {
    type: 'sowt',
    bits: 24,
    bytes: 3,
    write: (v, at, x) => {
      v.setUint8(at, int(x, 24) & 255)
      v.setInt16(at + 1, int(x, 24) >> 8, true)
    },
  },
  'C, float': { type: 'fl32', bits: 32, bytes: 4, write: (v, at, x) => v.setFloat32(at, x) },
  'C, double': { type: 'FL64', bits: 64, bytes: 8, write: (v, at, x) => v.setFloat64(at, x) },
}

/** An AIFF file, made by the letter of its definition. */
function aiff(
  channels: readonly Float32Array[],
  rate: number,
  kind: Kind,
  o: { frames?: number; cut?: number } = {},
): Uint8Array {
  const frames = channels[0]!.length
  const chunk = (id: string, body: number[]): number[] => [
    ...[...id].map((c) => c.charCodeAt(0)),
    ...u32(body.length),
    ...body,
    ...(body.length % 2 ? [0] : []),
  ]
  const u16 = (n: number): number[] => [(n >> 8) & 255, n & 255]
  const u32 = (n: number): number[] => [n >>> 24, (n >> 16) & 255, (n >> 8) & 255, n & 255]
  const exponent = Math.floor(Math.log2(rate))
  const extended = [...u16(16383 + exponent), ...u32(Math.floor((rate / 2 ** exponent) * 2 ** 31)), ...u32(0)]
  const data = new DataView(new ArrayBuffer(frames * channels.length * kind.bytes))
  for (let i = 0; i < frames; i++)
    channels.forEach((c, k) => kind.write(data, (i * channels.length + k) * kind.bytes, c[i]!))
  const type = kind.type ? [...[...kind.type].map((c) => c.charCodeAt(0)), 1, 120] : []
  const chunks = [
    ...(kind.type ? chunk('FVER', u32(0xa2805140)) : []),
    ...chunk('NAME', [66, 117, 111]),
    ...chunk('COMM', [
      ...u16(channels.length),
      ...u32(o.frames ?? frames),
      ...u16(kind.bits),
      ...extended,
      ...type,
    ]),
    ...chunk('SSND', [...u32(0), ...u32(0), ...new Uint8Array(data.buffer)]),
  ]
  const file = [
    ...[...'FORM'].map((c) => c.charCodeAt(0)),
    ...u32(chunks.length + 4),
    ...[...(kind.type ? 'AIFC' : 'AIFF')].map((c) => c.charCodeAt(0)),
    ...chunks,
  ]
  return Uint8Array.from(file.slice(0, file.length - (o.cut ?? 0)))
}

describe('an AIFF file', () => {
  it.each(Object.entries(kinds))('of %s is read as it was written', (_, kind) => {
    const left = sine(311, 0.037, 0.8),
      right = noise(0.037, 3, 0.7)
    const { sampleRate, channels } = readAudio(aiff([left, right], 44_100, kind))
    expect(sampleRate).toBe(44_100)
    const close =
      kind.type?.startsWith('f') || kind.type?.startsWith('F')
        ? 1e-7
        : 1.6 / 2 ** (Math.min(kind.bits, 24) - 1)
    for (const [c, x] of [left, right].entries())
      x.forEach((v, i) => {
        expect(Math.abs(channels[c]![i]! - v)).toBeLessThan(close)
      })
  })
  it('is mono where it says so, at any usual rate', () => {
    for (const rate of [8000, 22_050, 48_000, 96_000, 192_000])
      expect(
        [readAiff(aiff([sine(100, 0.01)], rate, kinds['16 bit']!))].map((a) => [
          a.sampleRate,
          a.channels.length,
        ]),
      ).toEqual([[rate, 1]])
  })
  it('that cannot be read says in a sentence why', () => {
    const x = sine(100, 0.01)
    const compressed = { ...kinds['16 bit']!, type: 'ima4' }
    const cases: [Uint8Array, RegExp][] = [
      [aiff([x], 44_100, kinds['16 bit']!, { cut: 100 }), /truncated: it should have 960 bytes/],
      [aiff([x], 44_100, kinds['16 bit']!, { frames: 9000 }), /truncated/],
      [aiff([x], 44_100, compressed), /compressed \(type “ima4”\)/],
      [aiff([x, x, x], 44_100, kinds['16 bit']!), /3 channels/],
      [aiff([x], 1000, kinds['16 bit']!), /1000 Hz/],
      [aiff([x], 44_100, kinds['16 bit']!, { frames: 0 }), /no sound/],
      [aiff([x.map(() => NaN)], 44_100, kinds['C, float']!), /invalid samples/],
      [aiff([x], 44_100, kinds['16 bit']!).slice(0, 40), /broken|cut short|no sound/],
      [new TextEncoder().encode('FORMxxxxAIFF'), /no format/],
      [new TextEncoder().encode('hello, this is text'), /not a WAV/],
    ]
    for (const [file, sentence] of cases) expect(() => readAudio(file)).toThrow(sentence)
  })
})
