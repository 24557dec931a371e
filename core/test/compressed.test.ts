import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { AudioFormatError } from '@oleaje/core/formats/audio-file'
import { compressedKind } from '@oleaje/core/formats/compressed'
import { audioPieces, readAnyAudio } from '@oleaje/core/formats/read-audio'

/** 0.37 s at 44.1 kHz: 311 Hz at ½ on the left, 467 Hz at ¼ on the right. */
const file = (end: string): Uint8Array =>
  new Uint8Array(readFileSync(join(import.meta.dirname, 'sounds', `two-tones.${end}`)))

function amplitude(x: Float32Array, hz: number, rate: number): number {
  const part = x.subarray(Math.floor(0.1 * rate), Math.floor(0.3 * rate))
  let c = 0
  let s = 0
  part.forEach((v, i) => {
    const w = 1 - Math.cos((2 * Math.PI * i) / part.length)
    c += w * v * Math.cos((2 * Math.PI * hz * i) / rate)
    s += w * v * Math.sin((2 * Math.PI * hz * i) / rate)
  })
  return (2 * Math.hypot(c, s)) / part.length
}

describe('compressed sounds', () => {
  it.each([
    ['flac', 'FLAC', 44_100],
    ['mp3', 'MP3', 44_100],
    ['ogg', 'Ogg Vorbis', 44_100],
    ['opus', 'Ogg Opus', 48_000],
  ] as const)('%s is read with its rate, its length and both sides', async (end, kind, rate) => {
    expect(compressedKind(file(end))).toBe(kind)
    const { sampleRate, channels } = await readAnyAudio(file(end))
    expect(sampleRate).toBe(rate)
    expect(channels).toHaveLength(2)
    expect(Math.abs(channels[0]!.length / rate - 0.37)).toBeLessThan(0.03)
    // the encoder of the MP3 has itself taken 5 % of the level, by another decoder as well
    expect(Math.abs(amplitude(channels[0]!, 311, rate) - 0.5)).toBeLessThan(end === 'mp3' ? 0.03 : 0.01)
    expect(Math.abs(amplitude(channels[1]!, 467, rate) - 0.25)).toBeLessThan(end === 'mp3' ? 0.03 : 0.01)
    expect(amplitude(channels[1]!, 311, rate)).toBeLessThan(0.04)
  })
  it('FLAC is exact to the sample', async () => {
    const { channels } = await readAnyAudio(file('flac'))
    expect(channels[0]!.length).toBe(Math.round(0.37 * 44_100))
    for (let i = 0; i < 4000; i++)
      expect(Math.abs(channels[0]![i]! - 0.5 * Math.sin((2 * Math.PI * 311 * i) / 44_100))).toBeLessThan(
        2 / 32_768,
      )
  })
  it.each(['flac', 'mp3', 'ogg', 'opus'])(
    'a broken %s gives a sentence or what is left of it, and too much is refused',
    async (end) => {
      const whole = file(end)
      await expect(readAnyAudio(whole, 1000)).rejects.toThrow(AudioFormatError)
      await expect(readAnyAudio(whole.slice(0, 40))).rejects.toThrow(AudioFormatError)
      let x = 5
      const dice = (): number => (x = (Math.imul(x, 1664525) + 1013904223) >>> 0) / 4294967296
      for (let k = 0; k < 12; k++) {
        const broken = whole.slice(0, Math.floor(whole.length * (0.4 + 0.6 * dice())))
        for (let j = 0; j < 8; j++)
          broken[60 + Math.floor(dice() * (broken.length - 60))] = Math.floor(dice() * 256)
        const read = await readAnyAudio(broken).catch((error: unknown) => error)
        if (read instanceof Error) expect(read).toBeInstanceOf(AudioFormatError)
        else
          expect(
            (read as { channels: Float32Array[] }).channels.every((c) => c.length > 0 && c.length < 44_100),
          ).toBe(true)
      }
    },
  )
  it.each(['flac', 'mp3', 'ogg', 'opus'])(
    'a %s that is cut off, or has a hole, is refused; with a tag behind it is whole',
    async (end) => {
      const whole = file(end)
      for (const part of [0.53, 0.81])
        await expect(readAnyAudio(whole.slice(0, whole.length * part)), `${part}`).rejects.toThrow(
          /damaged|no sound/,
        )
      const holed = whole.slice()
      holed.fill(0, whole.length * 0.47, whole.length * 0.71)
      await expect(readAnyAudio(holed)).rejects.toThrow(/damaged|no sound/)
      if (end !== 'mp3') return
      const tagged = new Uint8Array(whole.length + 128)
      tagged.set(whole)
      tagged.set(new TextEncoder().encode('TAG'), whole.length)
      expect((await readAnyAudio(tagged)).channels[0]!.length).toBe(
        (await readAnyAudio(whole)).channels[0]!.length,
      )
    },
  )
  it('that is stopped on the way says so, and not that its file is damaged', async () => {
    const whole = file('flac')
    let reads = 0
    const stopped = {
      size: whole.length,
      read: (from: number, to: number) =>
        ++reads > 1 ? Promise.reject(new Error('stopped')) : Promise.resolve(whole.subarray(from, to)),
    }
    await expect(
      (async () => {
        for await (const _ of audioPieces(stopped)) void _
      })(),
    ).rejects.toThrow('stopped')
  })
})
