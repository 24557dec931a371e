import { describe, expect, it } from 'vitest'
import { newEffect, newSource } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { RATE, db, peak, sine, spectrumDb } from './rig'
import { play, projectOf } from './project-rig'

/** Speeds at which everything that reads faster is measured: +7, +12 and +24 semitones, 2.7 and 4 times. */
const speeds = [2 ** (7 / 12), 2, 2.7, 4]

/**
 * Reads a tone fast enough to move it above 24 kHz. Returns the loudest component left below 20 kHz, in dB
 * relative to the tone. Tones are long and whole numbers of cycles, so that no seam is heard.
 */
function aliasOf(speed: number, projectFor: (sound: Float32Array) => Project): number {
  // 26.3 kHz if it were read without a limit: an alias at 21.7; and one that would fold further down
  let most = -Infinity
  for (const target of [29_300, 37_100]) {
    const hz = Math.min(23_000, Math.round(target / speed / 2) * 2)
    if (hz * speed < 25_000) continue
    const sound = sine(hz, 6, 0.5)
    const project = projectFor(sound)
    const { left } = play({ project, audio: () => ({ sampleRate: RATE, channels: [sound] }) }, 1.6)
    const bins = spectrumDb(left.subarray(RATE / 2, RATE / 2 + 32_768))
    // 0 dB: the tone as it is
    const whole = spectrumDb(sound.subarray(0, 32_768)).reduce((m, x) => Math.max(m, x), -Infinity)
    const upTo = Math.floor((20_000 / RATE) * 32_768)
    for (let k = 20; k < upTo; k++) most = Math.max(most, bins[k]! - whole)
  }
  return most
}

const loop =
  (params: Record<string, number>, tempo = 120, nodes: ChainNode[] = []) =>
  (sound: Float32Array): Project => {
    const { project } = projectOf(sound, nodes)
    project.tempo = tempo
    Object.assign(project.tracks[0]!.source!.params, params)
    return project
  }
const semitones = (speed: number): number => 12 * Math.log2(speed)

/** A source that plays notes, with one long note. */
const noted =
  (type: string, params: Record<string, number>, pitch: number, more: (p: Project) => void = () => {}) =>
  (sound: Float32Array): Project => {
    const { project } = projectOf(sound, [])
    const track = project.tracks[0]!
    track.source = newSource(type, params, 'x', 'src')
    track.line = { length: 0, notes: [{ start: 0, length: 30, pitch, velocity: 1 }], bend: [], pressure: [] }
    more(project)
    return project
  }

const readers: Record<string, (speed: number) => (sound: Float32Array) => Project> = {
  'a loop, tuned': (speed) => loop({ tune: semitones(speed) }),
  'a loop by varispeed': (speed) => loop({ play: 1, tempo: 60 }, 60 * speed),
  'a loop, stretched': (speed) => loop({ play: 2, tempo: 60, hits: 0, tune: semitones(speed) }, 60 * speed),
  'a Played sound': (speed) =>
    noted('played', { plays: 0, tune: semitones(speed), root: 60, attack: 0, toLevel: 0, level: 0 }, 60),
  'the Varispeed effect': (speed) => loop({}, 120, [newEffect('varispeed', { speed: -speed, after: 0 })]),
  'the Pitch effect, quick': (speed) => loop({}, 120, [newEffect('pitch', { pitch: semitones(speed) })]),
  'Grains of what came in': (speed) =>
    loop({}, 120, [
      newEffect('grains', { pitch: semitones(speed), scatter: 0, place: 0.3, level: 0, pan: 0 }),
    ]),
  'Grains of a sound': (speed) =>
    loop({}, 120, [
      {
        ...newEffect('grains', { from: 1, pitch: semitones(speed), level: 0, pan: 0 }),
        data: { audio: 'x' },
      },
    ]),
}

describe('reading faster lets nothing alias below 20 kHz', () => {
  for (const [name, reader] of Object.entries(readers))
    it.each(speeds)(`${name}, × %d`, (speed) => {
      expect(aliasOf(speed, reader(speed))).toBeLessThan(-80)
    })
})

describe('plain waves of Tone', () => {
  for (const [wave, name] of ['triangle', 'saw', 'pulse'].entries())
    it.each([311, 1733, 4409, 6997])(`${name} at %d Hz: what is no harmonic lies below −90 dB`, (hz) => {
      const { project, audio } = projectOf(sine(311, 1), [])
      // a whole number of cycles in the window, and none of its aliases on a harmonic
      const n = 65_536
      const frequency = (Math.round((hz * n) / RATE) * RATE) / n
      project.tracks[0]!.source = newSource(
        'tone',
        { wave: wave + 1, frequency, width: 0.37, level: 0 },
        null,
        'src',
      )
      const { left } = play({ project, audio }, 2)
      const bins = spectrumDb(left.subarray(4800, 4800 + n))
      const first = Math.round((frequency / RATE) * n)
      const loudest = bins.reduce((m, x) => Math.max(m, x), -Infinity)
      let most = -Infinity
      for (let k = 30; k < (20_000 / RATE) * n; k++) {
        const away = Math.abs(k - first * Math.round(k / first))
        if (away > 12 && k > 12) most = Math.max(most, bins[k]! - loudest)
      }
      expect(most).toBeLessThan(-90)
    })
})

describe('the level of Tone is its peak level', () => {
  it.each([
    [5, 'pink noise'],
    [12, 'multitone'],
    [10, 'two tones'],
  ])('%d, %s', (wave) => {
    const { project, audio } = projectOf(sine(311, 1), [])
    project.tracks[0]!.source = newSource('tone', { wave, level: -6 }, null, 'src')
    const most = peak(play({ project, audio }, process.env.OLEAJE_LONG ? 600 : 20).left)
    expect(db(most)).toBeLessThan(-5.99)
    expect(db(most)).toBeGreaterThan(-12)
  })
})
