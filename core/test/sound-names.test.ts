import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { readBundle } from '@oleaje/core/formats/bundle'
import { formerNames } from '@oleaje/core/formats/former-hash'
import { audioHash } from '@oleaje/core/formats/hash'
import { writeWav } from '@oleaje/core/formats/wav'
import { RATE, noise } from './rig'
import { play, projectOf } from './project-rig'

/** So many sounds are ten million pairs. */
const ROUNDS = process.env.OLEAJE_LONG ? 20_000 : 4500
const name = (...channels: Float32Array[]): Promise<string> => audioHash({ sampleRate: RATE, channels })

describe('the name of a sound', () => {
  it('differs where sign, scale, order, length, channels or rate do', async () => {
    const s = noise(0.037, 3)
    const other = [
      s,
      s.map((x) => -x),
      s.map(Math.abs),
      s.map((x) => x * 2 ** -16),
      s.map((x) => x * 2),
      s.slice().reverse(),
      s.slice(0, -1),
      Float32Array.of(...s, 0),
      Float32Array.of(0, ...s),
    ]
    const names = await Promise.all([
      ...other.map((x) => name(x)),
      name(s, s),
      name(
        s,
        s.map((x) => -x),
      ),
      name(s, new Float32Array(s.length)),
      name(new Float32Array(s.length), s),
      audioHash({ sampleRate: 44_100, channels: [s] }),
    ])
    expect(new Set(names).size).toBe(names.length)
    expect(await name(s.slice())).toBe(names[0])
  })

  it(`differs between ${ROUNDS} sounds that differ in one bit`, async () => {
    const samples = noise(0.0137, 7)
    const bits = new Uint32Array(samples.buffer)
    const names = new Set([await name(samples)])
    // every bit of every sample in turn, one sound each
    for (let k = 1; k < ROUNDS; k++) {
      const at = k % bits.length
      const bit = 1 << (Math.floor(k / bits.length) % 32)
      bits[at] = bits[at]! ^ bit
      names.add(await name(samples))
    }
    // flips add up, so that no sound comes twice before each bit of each sample has been flipped
    expect(names.size).toBe(ROUNDS)
  })
})

it('a bundle from before opens under the names of today, and sounds the same', async () => {
  const sound = noise(0.37, 11)
  const held = { sampleRate: RATE, channels: [sound] }
  const { project, audio } = projectOf(sound, [])
  const before = formerNames(held)[0] ?? ''
  const kept = structuredClone(project)
  kept.audio = { [before]: { name: 'crossing', frames: sound.length, channels: 1, sampleRate: RATE } }
  kept.tracks[0]!.source!.audio = before
  const old = zipSync({
    'project.json': strToU8(JSON.stringify(kept)),
    [`audio/${before}.wav`]: writeWav(held, 32),
  })
  const opened = await readBundle(old)
  const now = await audioHash(held)
  expect(Object.keys(opened.project.audio)).toEqual([now])
  expect(opened.project.tracks[0]!.source!.audio).toBe(now)
  const heard = play({ project: opened.project, audio: () => opened.audio.get(now) as typeof held }, 0.5)
  expect(heard.left).toEqual(play({ project, audio }, 0.5).left)
})
