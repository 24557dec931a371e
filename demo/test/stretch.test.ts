import { describe, expect, it } from 'vitest'
import { hitsOf } from '@oleaje/core/dsp/hits'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { play } from '../../core/test/project-rig'
import { RATE } from '../../core/test/rig'
import { demoSound } from './demo-rig'

const OWN = 96

/** The deck kit (8 beats) and the fog pad (16) stretched to a tempo, looping for two rounds. */
function stretched(
  file: string,
  tempo: number,
  beats: number,
  params: Record<string, number> = {},
): { left: Float32Array; right: Float32Array } {
  const sound = demoSound(file)
  const track = newTrack('loop', newSource('loop', { play: 2, tempo: OWN, ...params }, 'x', 'src'), 't')
  const project: Project = {
    ...newProject('stretch'),
    tempo,
    loop: { on: true, start: 0, end: beats },
    audio: { x: { name: 'x', frames: sound.length, channels: 1, sampleRate: RATE } },
  }
  project.tracks.unshift(track)
  const left = new Float32Array(Math.ceil((((2 * beats * 60) / tempo) * RATE) / 128) * 128)
  play(
    { project, audio: () => ({ sampleRate: RATE, channels: [sound] }) },
    left.length / RATE,
    {},
    (e, b) => {
      left.set(e.mix.left, b * 128)
    },
    true,
  )
  return { left, right: left }
}
function loudness({ left, right }: { left: Float32Array; right: Float32Array }): number {
  const meter = new LoudnessMeter(RATE)
  meter.process(left, right)
  return meter.integrated
}

describe.each([0.7, 0.85, 1.2, 1.4].map((r) => Math.round(OWN * r * 10) / 10))(
  'the demo’s loops at %d bpm',
  (tempo) => {
    it('drums keep their hits within 3 ms and their loudness within 1.5 LU', () => {
      const y = stretched('deck-kit', tempo, 8)
      const own = hitsOf({ sampleRate: RATE, channels: [demoSound('deck-kit')] })
      const found = hitsOf({ sampleRate: RATE, channels: [y.left] }).at
      // the strong ones, which nobody could miss
      const strong = own.at.filter((_, i) => own.strength[i]! > 0.35)
      expect(strong.length).toBeGreaterThan(6)
      for (const at of strong) {
        const due = (at * OWN) / tempo
        const nearest = found.reduce((best, f) => (Math.abs(f - due) < Math.abs(best - due) ? f : best), -1e9)
        expect((Math.abs(nearest - due) / RATE) * 1000, `hit at ${(at / RATE).toFixed(3)} s`).toBeLessThan(3)
      }
      expect(Math.abs(loudness(y) - loudness(stretched('deck-kit', OWN, 8, { play: 0 })))).toBeLessThan(1.5)
    })
    it('the pad keeps its loudness within 0.5 LU', () => {
      expect(
        Math.abs(
          loudness(stretched('fog-pad', tempo, 16)) - loudness(stretched('fog-pad', OWN, 16, { play: 0 })),
        ),
      ).toBeLessThan(0.5)
    })
  },
)
