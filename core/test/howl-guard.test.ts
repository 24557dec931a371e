import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { RATE, noise, peak } from './rig'

function lineIn(level: number): Project {
  const track = newTrack('Line', newSource('input', {}, null, 'src'), 'line')
  track.params.level = level
  track.a.nodes = [newEffect('filter', { cutoff: 3000 })]
  const project = { ...newProject('howl'), loop: { on: false, start: 0, end: 16 } }
  project.tracks.unshift(track)
  return project
}

/**
 * Plays with the output going into the input again after some frames, by a gain; `add` comes in beside it.
 */
function round(
  project: Project,
  gain: number,
  delay: number,
  add: (frame: number) => number,
  blocks: number,
): { heard: Float32Array; howls: number } {
  let howls = 0
  const engine = new Engine({
    sampleRate: RATE,
    audio: () => null,
    looping: true,
    onHowl: () => {
      howls++
    },
  })
  engine.load(project)
  engine.arm(true)
  const heard = new Float32Array(blocks * BLOCK)
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    for (let i = 0; i < BLOCK; i++) {
      const at = b * BLOCK + i
      const back = at >= delay ? heard[at - delay]! * gain : 0
      engine.input.left[i] = engine.input.right[i] = Math.max(-1, Math.min(1, back + add(at)))
    }
    engine.process(left, right)
    heard.set(left, b * BLOCK)
  }
  return { heard, howls }
}

describe('a howl between output and input', () => {
  it.each([480, 700, 2048])(
    'is dipped and told of before it has been loud for half a second, round %d samples',
    (delay) => {
      const hiss = noise(30, 3, 0.0005)
      const { heard, howls } = round(lineIn(0), 1.6, delay, (i) => hiss[i % hiss.length]!, 2400)
      expect(howls).toBeGreaterThan(0)
      // loud for at most half a second at a time: afterwards it is dipped
      let loud = 0
      let longest = 0
      for (let at = 0; at < heard.length; at += BLOCK) {
        loud = peak(heard.subarray(at, at + BLOCK)) > 0.5 ? loud + BLOCK : 0
        longest = Math.max(longest, loud)
      }
      expect(longest).toBeLessThan(0.6 * RATE)
    },
  )
  it('is none where music swells, hits or is loud, and where the way round is damped', () => {
    const swell = (i: number): number =>
      0.6 * Math.sin((2 * Math.PI * 220 * i) / RATE) * Math.min(1, i / (1.5 * RATE))
    const hits = (i: number): number =>
      0.9 * Math.sin((2 * Math.PI * 90 * i) / RATE) * Math.exp(-(i % 24_000) / 4000)
    for (const play of [swell, hits]) {
      expect(round(lineIn(0), 0.2, 700, play, 1500).howls).toBe(0)
      expect(round(lineIn(0), 0, 700, play, 1500).howls).toBe(0)
    }
  })
})
