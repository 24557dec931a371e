import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import type { AudioData } from '@oleaje/core/contract/audio'
import { BLOCK } from '@oleaje/core/contract/block'
import type { SourceDefinition } from '@oleaje/core/contract/source'
import { PIECE_FRAMES } from '@oleaje/core/dsp/audio-pieces'
import { ArrivingPieces } from '@oleaje/core/engine/arriving-pieces'
import { readBundle, writeBundle } from '@oleaje/core/formats/bundle'
import { bytesInMemory } from '@oleaje/core/formats/byte-asks'
import { Engine } from '@oleaje/core/engine/engine'
import { formerNames } from '@oleaje/core/formats/former-hash'
import { audioHash } from '@oleaje/core/formats/hash'
import { audioPieces, readAudio } from '@oleaje/core/formats/read-audio'
import { resample } from '@oleaje/core/formats/resample'
import { type Imported, StoredPieces, importSound, storedAudio } from '@oleaje/core/formats/stored-sound'
import { writeWav } from '@oleaje/core/formats/wav'
import { newEffect, newSource } from '@oleaje/core/project/new'
import { planRender, render } from '@oleaje/core/render/render'
import { loopSource } from '@oleaje/core/sources/loop'
import { projectOf } from './project-rig'
import { RATE, noise, peak, sourceRig } from './rig'

const SECONDS = 307
const frames = Math.round(SECONDS * RATE) + 11
/** A sound of five minutes and a little more, quickly made, in which no two places are alike. */
const voice = (step: number): Float32Array => {
  let x = step
  return Float32Array.from({ length: frames }, () => {
    x = (Math.imul(x, 1664525) + 1013904223) | 0
    return (x >> 16) / 65536
  })
}
const whole = [voice(7), voice(11)]

/** Whether samples are the same to the bit; a matcher would hold long ones many times. */
const same = (a: readonly Float32Array[], b: readonly Float32Array[]): boolean =>
  a.length === b.length &&
  a.every(
    (c, i) =>
      Buffer.compare(
        Buffer.from(c.buffer, c.byteOffset, c.byteLength),
        Buffer.from(b[i]!.buffer, b[i]!.byteOffset, b[i]!.byteLength),
      ) === 0,
  )

/** A file brought in as the page and the command line do, with the bytes that were put away. */
async function brought(
  file: Uint8Array,
  rate: number | null,
): Promise<{ found: Imported; bytes: Uint8Array; largest: number }> {
  const parts: Uint8Array[] = []
  const found = await importSound(audioPieces(bytesInMemory(file)), rate, (part) => {
    parts.push(part)
  })
  return { found, bytes: Buffer.concat(parts), largest: Math.max(0, ...parts.map((p) => p.length)) }
}

const file = writeWav({ sampleRate: RATE, channels: whole }, 32)
const { found, bytes, largest } = await brought(file, RATE)
if (!('stored' in found)) throw new Error('it is long')
const { stored } = found

describe('a long sound that is brought in', () => {
  it('is put away in pieces, to the bit, under the name that a whole one of its content has', async () => {
    expect(found.hash).toBe(await audioHash({ sampleRate: RATE, channels: whole }))
    expect(largest).toBe(8 * PIECE_FRAMES)
    expect({ ...stored, peaks: stored.peaks.length }).toEqual({
      sampleRate: RATE,
      frames,
      channelCount: 2,
      peaks: Math.ceil(frames / 2048),
    })
    const pieces = new StoredPieces(stored, RATE)
    for (const n of [0, 1, 57, pieces.count - 1]) {
      expect(pieces.piece(n, bytes.subarray(...pieces.bytesOf(n)))).toEqual(
        whole.map((c) => c.slice(n * PIECE_FRAMES, (n + 1) * PIECE_FRAMES)),
      )
    }
    const loud = Math.max(...whole.map((c) => peak(c.subarray(5 * 2048, 6 * 2048))))
    expect(stored.peaks[5]).toBe(loud)
  })
  it('has another name with one sample changed, in whichever piece', async () => {
    for (const at of [3, PIECE_FRAMES, frames - 1]) {
      const other = [whole[0]!, whole[1]!.slice()]
      other[1]![at] = 0.5
      expect(await audioHash({ sampleRate: RATE, channels: other })).not.toBe(found.hash)
    }
  })
  it('is at another rate what all of it brought to that rate is, when it is brought in and when it is read', async () => {
    const slow = { sampleRate: 4803, channels: [noise((SECONDS * 4803) / RATE)] }
    const there = resample(slow.channels[0]!, 4803, 13_100)
    const at = await brought(writeWav(slow, 32), 13_100)
    expect(at.found.hash).toBe(await audioHash({ sampleRate: 13_100, channels: [there] }))
    const kept = await brought(writeWav(slow, 32), null)
    const asKept = (kept.found as { stored: typeof stored }).stored
    const pieces = new StoredPieces(asKept, 13_100)
    expect(pieces.frames).toBe(there.length)
    for (const n of [0, 3, pieces.count - 1])
      expect(pieces.piece(n, kept.bytes.subarray(...pieces.bytesOf(n)))[0]).toEqual(
        there.slice(n * PIECE_FRAMES, (n + 1) * PIECE_FRAMES),
      )
  })
  it('of 5 minutes to the sample is held whole', async () => {
    const short = writeWav({ sampleRate: 8000, channels: [noise(50)] }, 16)
    const held = await brought(short, null)
    expect('channels' in held.found && held.found.channels[0]!.length).toBe(300 * 8000)
    expect(held.found.hash).toBe(await audioHash(readAudio(short)))
    expect(held.bytes.length).toBe(0)
  })
})

/** The sound in pieces, each there as soon as it is asked for, or kept back until it is let go. */
function arriving(most = 48) {
  const asked: number[] = []
  const given: number[] = []
  let waits = false
  const pieces = new StoredPieces(stored, RATE)
  const shelf = new ArrivingPieces((_, n) => {
    asked.push(n)
    if (!waits) give()
  }, most)
  const give = (): void => {
    for (const n of asked.splice(0)) {
      given.push(n)
      shelf.take('x', n, pieces.piece(n, bytes.subarray(...pieces.bytesOf(n))))
    }
  }
  const audio: AudioData = { sampleRate: RATE, channels: [], pieces: shelf.open('x', frames, 2) }
  return {
    audio,
    shelf,
    given,
    give,
    wait: (on: boolean) => {
      waits = on
    },
  }
}

const rigOf = (values: Record<string, number>, audio: AudioData) => {
  const rig = sourceRig(loopSource as unknown as SourceDefinition, values, { tempo: 107 })
  ;(rig.io as { audio: AudioData }).audio = audio
  return rig
}

const ways: [string, Record<string, number>, number][] = [
  ['as it is', {}, 2 * PIECE_FRAMES - 700],
  ['over its end', { start: 0.2, end: 0.5013 }, Math.floor(0.3013 * frames) - 900],
  ['by varispeed', { play: 1, tempo: 96, tune: 3.7 }, (3 * PIECE_FRAMES) / 1.37 - 900],
  ['backwards, with fades', { reverse: 1, fadeIn: 0.01, fadeOut: 0.02, start: 0.1, end: 0.9 }, 41_000],
  ['with a place of its own to go back to', { start: 0.05, loopFrom: 0.4, end: 0.45, tune: -7 }, 60_000],
  ['stretched', { play: 2, tempo: 96, tune: 2 }, PIECE_FRAMES / 1.11 - 4000],
]

describe('a loop of a long sound', () => {
  it.each(ways)('%s is to the bit what one that is held whole is', (_, values, from) => {
    const held = rigOf(values, { sampleRate: RATE, channels: whole })
    const inPieces = rigOf(values, arriving().audio)
    for (const rig of [held, inPieces]) rig.seek(from)
    const expected = held.run(70)
    const got = inPieces.run(70)
    expect(got).toEqual(expected)
    expect(peak(got.left)).toBeGreaterThan(0.2)
    // and after a jump of the song
    const jump = { to: 7_654_321, after: 61 }
    expect(inPieces.run(9, undefined, jump)).toEqual(held.run(9, undefined, jump))
  })
  it('asks for what it plays before it plays it, and for where the song goes back to', () => {
    const { audio, given } = arriving()
    const rig = rigOf({}, audio)
    rig.song.loopStart = 100 * PIECE_FRAMES
    rig.seek(20 * PIECE_FRAMES + 5)
    rig.run(1)
    expect([...given].sort((a, b) => a - b)).toEqual([20, 21, 22, 23, 100, 101, 102, 103])
  })
  it('backwards asks for what lies before, from its end on', () => {
    const { audio, given } = arriving()
    const rig = rigOf({ reverse: 1, end: (70.5 * PIECE_FRAMES) / frames }, audio)
    rig.song.loopStart = 9 * PIECE_FRAMES
    rig.run(1)
    expect([...given].sort((a, b) => a - b)).toEqual([58, 59, 60, 61, 67, 68, 69, 70])
  })
  it('that has to wait is silent, begins softly and goes on where the song is', () => {
    const { audio, give, wait } = arriving()
    const rig = rigOf({}, audio)
    rig.run(20)
    wait(true)
    const { left: late } = rig.run(5, undefined, { to: 60 * PIECE_FRAMES, after: 0 })
    // it fades from where it was
    expect(Math.abs(late[0]!)).toBeLessThanOrEqual(1)
    for (let i = 1; i < BLOCK; i++) expect(Math.abs(late[i]!)).toBeLessThanOrEqual(Math.abs(late[i - 1]!))
    expect(peak(late.subarray(3 * BLOCK))).toBeLessThan(1e-4)
    give()
    const { left } = rig.run(3)
    expect(Math.abs(left[0]!)).toBeLessThan(0.02)
    const at = 60 * PIECE_FRAMES + 5 * BLOCK
    expect(left.subarray(BLOCK)).toEqual(whole[0]!.slice(at + BLOCK, at + 3 * BLOCK))
  })
  it('is silent where a piece cannot be had, and plays on after it', () => {
    const { audio, shelf, wait } = arriving()
    const rig = rigOf({}, audio)
    wait(true)
    rig.seek(PIECE_FRAMES - 2 * BLOCK)
    rig.run(1)
    for (const [n, channels] of [
      [0, whole.map((c) => c.slice(0, PIECE_FRAMES))],
      [1, []],
    ] as const)
      shelf.take('x', n, channels)
    const { left } = rig.run(20)
    expect(peak(left.subarray(0, BLOCK))).toBeGreaterThan(0.1)
    expect(peak(left.subarray(2 * BLOCK))).toBe(0)
  })
  it('of which several places are played lets go of what has been played, and holds what is', () => {
    const { audio, shelf, given } = arriving(6)
    const rigs = [3, 50, 101].map((n) => {
      const rig = rigOf({}, audio)
      rig.seek(n * PIECE_FRAMES)
      return rig
    })
    for (let b = 0; b < 3000; b++) {
      for (const [k, rig] of rigs.entries()) {
        const { left } = rig.run(1)
        const at = ([3, 50, 101][k] ?? 0) * PIECE_FRAMES + b * BLOCK
        if (b % 97 === 0 && at < frames) expect(left[5]).toBe(whole[0]![at + 5])
      }
      shelf.pass()
      // those that play, three after each, as many where the song goes back to, and what has just been left
      expect(shelf.bytes).toBeLessThanOrEqual(20 * 8 * PIECE_FRAMES)
    }
    expect(new Set(given).size).toBe(given.length)
  })
})

describe('a project with a long sound', () => {
  const rendered = (audio: AudioData, from: number): Float32Array => {
    const { project } = projectOf(whole[0]!, [newEffect('drive', { drive: 9 })], whole[1])
    const plan = planRender({ ...project, tempo: 107 }, { from, to: from + 1.37, tail: 0 })
    return Float32Array.from(
      [...render(plan, () => audio)].flatMap(({ channels }) => [...channels[0], ...channels[1]]),
    )
  }

  it('renders from where it is kept, bit for bit as if it were held', () => {
    const audio = storedAudio(stored, RATE, (a, b) => bytes.subarray(a, b))
    for (const from of [0.37, 200.11]) {
      const held = rendered({ sampleRate: RATE, channels: whole }, from)
      expect(rendered(audio, from)).toEqual(held)
      expect(peak(held)).toBeGreaterThan(0.2)
    }
  })
  it('goes out in a bundle and comes back, put away in pieces or read whole, the same to the bit', async () => {
    const { project } = projectOf(whole[0]!, [], whole[1])
    project.audio = { [found.hash]: { name: 'crossing', frames, channels: 2, sampleRate: RATE } }
    project.tracks[0]!.source!.audio = found.hash
    const audio = new Map([[found.hash, storedAudio(stored, RATE, (a, b) => bytes.subarray(a, b))]])
    const bundle = await writeBundle({ project, audio })
    const held = await readBundle(bundle)
    expect(same(held.audio.get(found.hash)!.channels, whole)).toBe(true)
    const parts: Uint8Array[] = []
    const back = await readBundle(bytesInMemory(bundle), undefined, () => ({
      write: (part) => {
        parts.push(part.slice())
      },
      end: async () => {
        const again = await brought(Buffer.concat(parts), null)
        return {
          hash: again.found.hash,
          sound: storedAudio((again.found as { stored: typeof stored }).stored, RATE, (a, b) =>
            again.bytes.subarray(a, b),
          ),
        }
      },
    }))
    expect(back.project).toEqual(project)
    expect(
      same(
        back.audio.get(found.hash)!.pieces!.piece(57)!,
        whole.map((c) => c.slice(57 * PIECE_FRAMES, 58 * PIECE_FRAMES)),
      ),
    ).toBe(true)
  })
  it('under the name that it had before it came in pieces is still read', async () => {
    const { project } = projectOf(whole[0]!, [])
    const mono = { sampleRate: RATE, channels: [whole[0]!.map((x, i) => (i % 977 === 0 ? x : 0))] }
    const before = formerNames(mono).at(-1) ?? ''
    project.audio = { [before]: { name: 'crossing', frames, channels: 1, sampleRate: RATE } }
    project.tracks[0]!.source!.audio = before
    const zip = await writeBundle({ project, audio: new Map([[before, mono]]) })
    expect([...(await readBundle(zip)).audio.keys()]).toEqual([await audioHash(mono)])
    const old = zipSync({
      'project.json': strToU8(JSON.stringify(project)),
      [`audio/${before}.wav`]: [writeWav(mono, 32), { level: 0 }],
    })
    expect([...(await readBundle(old)).audio.keys()]).toEqual([await audioHash(mono)])
  })
  it('is silent where something would need all of it at once', () => {
    const { project } = projectOf(whole[0]!, [])
    project.tracks[0]!.source = newSource('played', {}, 'x', 'src')
    project.tracks[0]!.line = {
      length: 4,
      notes: [{ start: 0, length: 4, pitch: 60, velocity: 1 }],
      bend: [],
      pressure: [],
    }
    const audio = storedAudio(stored, RATE, () => {
      throw new Error('nothing is read')
    })
    const plan = planRender(project, { from: 0, to: 0.5, tail: 0 })
    for (const { channels } of render(plan, () => audio)) expect(peak(channels[0])).toBe(0)
  })
  it('is for effects that need all of it as one that is not there', () => {
    const heard = ['grains', 'convolver'].map((type) => {
      const made = projectOf(noise(1), [
        { ...newEffect(type, { wet: 1, from: 1 }, 'e'), data: { audio: 'long' } },
      ])
      const play = (long: AudioData | null): Float32Array => {
        const faults: string[] = []
        const engine = new Engine({
          sampleRate: RATE,
          audio: (hash) => (hash === 'long' ? long : made.audio()),
          onFault: (key) => faults.push(key),
        })
        engine.load(made.project)
        engine.play(0)
        const out = new Float32Array(311 * BLOCK)
        const other = new Float32Array(BLOCK)
        for (let at = 0; at < out.length; at += BLOCK) engine.process(out.subarray(at, at + BLOCK), other)
        expect(faults).toEqual([])
        return out
      }
      return [
        play(
          storedAudio(stored, RATE, () => {
            throw new Error('nothing is read')
          }),
        ),
        play(null),
      ]
    })
    for (const [long, none] of heard) expect(same([long!], [none!])).toBe(true)
  })
})
