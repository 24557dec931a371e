import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { fold } from '@oleaje/core/effects/folder'
import { readVowels } from '@oleaje/core/effects/vowel'
import { removeNode, shiftNode } from '@oleaje/core/project/chain-edits'
import { removeLinks } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Effect, Project } from '@oleaje/core/project/schema'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { describe, expect, it } from 'vitest'
import { edited, play } from '../../core/test/project-rig'
import { RATE, db, noise, peak, rms, toneAt } from '../../core/test/rig'
import { alone, demoProject, demoSound, record } from './demo-rig'

const studies = demoProject('tone-studies')
const files: Record<string, string> = {
  'speaking': 'deck-kit',
  'split': 'rope-guitar',
  'growl': 'hull-bass',
  'new-snare': 'deck-snare',
  'speaking-keys': 'galley-keys',
  'in-the-hold': 'fog-pad',
}
const soundsOf = (...ids: string[]): Record<string, Float32Array> =>
  Object.fromEntries(ids.map((id) => [id, demoSound(files[id] ?? '')]))
const effectOf = (id: string): Effect =>
  studies.tracks.flatMap((t) => [...nodesIn(heardChain(t).nodes)]).find((n) => n.id === id) as Effect
const impulse = (): Float32Array => {
  const x = new Float32Array(2 * RATE)
  x[0] = 0.2
  return x
}

describe('every study is worth hearing', () => {
  it.each(studies.tracks.filter((t) => t.kind !== 'mix').map((t) => t.id))(
    '%s: a sensible level, nothing over, no dead air, and it moves where it says so',
    (id) => {
      // the keys listen to the drums, which are not to be heard with them
      const p =
        id === 'speaking-keys'
          ? edited(alone(studies, id, 'speaking'), setParam('speaking', 'mute', 1))
          : alone(studies, id)
      const { left } = record(p, 5, {
        sounds: soundsOf(...(id === 'rich' ? [] : id === 'speaking-keys' ? [id, 'speaking'] : [id])),
      })
      const heard = left.slice(RATE / 2)
      expect(db(peak(heard)), 'peak').toBeLessThan(0)
      expect(db(rms(heard)), 'level').toBeGreaterThan(-34)
      expect(db(rms(heard))).toBeLessThan(-9)
      if (id === 'new-snare') return
      for (let at = 0; at + RATE < heard.length; at += RATE)
        expect(db(rms(heard.slice(at, at + RATE))), `second ${at / RATE}`).toBeGreaterThan(-50)
    },
  )
})

describe('speaking drums, on the demo’s own chain', () => {
  const own = readVowels(effectOf('speak-vowel').data?.vowels)
  /** The chain without its compressor and with its one control standing at a value. */
  const standing = (say: number, more: Record<string, number> = {}): Project =>
    edited(
      alone(studies, 'speaking'),
      removeLinks(['to-say-value']),
      removeNode('speak-comp'),
      setParam('say', 'value', say),
      setParam('clearly', 'value', more.clearly ?? 0.5),
      setParam('speak-vowel', 'dry', more.dry ?? 0),
      setParam('speak-vowel', 'lowCut', 20),
      setParam('speak-vowel', 'highCut', 20_000),
    )
  const response = (p: Project): Float32Array =>
    record(p, 1, { sounds: { speaking: impulse() } }).left.slice(0, 32_768)
  const level = (h: Float32Array, hz: number): number => db(toneAt(h, hz).amplitude)
  const strongest = (h: Float32Array, near: number): number => {
    let best = 0
    let most = -Infinity
    for (let hz = near * 0.93; hz < near * 1.07; hz *= 1.001) {
      const v = level(h, hz)
      if (v > most) [best, most] = [hz, v]
    }
    return best
  }
  it('one control glides through five vowels; the peaks are where they are set, within 1 %', () => {
    expect(own.length).toBe(5)
    own.forEach((v, i) => {
      const h = response(standing(i / 4))
      for (const p of v.peaks.slice(0, 3))
        expect(
          Math.abs(strongest(h, p.frequency) / p.frequency - 1),
          `${v.name} at ${p.frequency}`,
        ).toBeLessThan(0.01)
    })
    // halfway, each peak is halfway in octaves
    const h = response(standing(1 / 8))
    for (let n = 0; n < 2; n++) {
      const between = Math.sqrt((own[0]?.peaks[n]?.frequency ?? 0) * (own[1]?.peaks[n]?.frequency ?? 0))
      expect(Math.abs(strongest(h, between) / between - 1)).toBeLessThan(0.01)
    }
  })
  it('amount goes from flat over as set to exaggerated, and dry is mixed in', () => {
    const first = own[4]?.peaks[0]?.frequency ?? 0
    const lift = (clearly: number, dry = 0): number => {
      const h = response(standing(1, { clearly, dry }))
      return level(h, first) - level(h, 60)
    }
    expect(Math.abs(lift(0))).toBeLessThan(0.2)
    expect(lift(0.5)).toBeGreaterThan(12)
    expect(lift(1)).toBeGreaterThan(lift(0.5) + 10)
    expect(lift(0.5, 1)).toBeLessThan(lift(0.5) - 3)
  })
  it('what moves it is heard: the first peak wanders over the song', () => {
    const { values } = record(alone(studies, 'speaking'), 5, {
      sounds: { speaking: demoSound('deck-kit') },
      key: 'live:speak-vowel.position',
    })
    expect(Math.max(...values) - Math.min(...values)).toBeGreaterThan(0.9)
  })
})

describe('split distortion, on the demo’s own chain', () => {
  it('is flat within 0.05 dB with its distortions off, and in time with them on', () => {
    const off = edited(
      alone(studies, 'split'),
      ...['low-drive', 'middle-folder', 'high-crush', 'split-limit'].map((id) => setParam(id, 'on', 0)),
      setParam('split', 'level', 0),
    )
    const { left, latency } = record(off, 1, { sounds: { split: impulse() } })
    const h = left.slice(Math.round(latency * RATE), Math.round(latency * RATE) + 32_768)
    for (const hz of [50, 110, 220, 400, 900, 1900, 3000, 8000, 16_000])
      expect(Math.abs(db((toneAt(h, hz).amplitude * 16_384) / 0.2)), `${hz} Hz`).toBeLessThan(0.05)
    // with tiny signals the distortions are all but straight: what leaves has come as late as the plan says
    expect(Math.abs(h.findIndex((v) => Math.abs(v) > 0.1 * peak(h)))).toBeLessThan(3)
  })
})

describe('growl, on the demo’s own chain', () => {
  const p = edited(alone(studies, 'growl'), removeLinks(['to-snarl-value']))
  it('one macro goes through four poses on eased ways', () => {
    expect((effectOf('growl-eq').data?.poses as unknown[]).length).toBe(4)
    const brightness = [0, 0.33, 0.66, 1].map((at) => {
      const { left } = record(edited(p, setParam('snarl', 'value', at), removeNode('growl-drive')), 1, {
        sounds: { growl: impulse() },
      })
      let best = 0
      let most = 0
      for (let hz = 100; hz < 6000; hz *= 1.01) {
        const a = toneAt(left.slice(0, 32_768), hz).amplitude
        if (a > most) [best, most] = [hz, a]
      }
      return best
    })
    expect(brightness.map((hz, i) => Math.abs(hz / ([240, 520, 2100, 900][i] ?? 1) - 1) < 0.12)).toEqual([
      true,
      true,
      true,
      true,
    ])
  })
  it('order before and after distortion is swapped while it plays, without a click', () => {
    const tone = Float32Array.from(
      { length: 4 * RATE },
      (_, i) => 0.25 * Math.sin((2 * Math.PI * 55 * i) / RATE),
    )
    const project = { ...p, loop: { on: false, start: 0, end: 64 } }
    const audio = (): { sampleRate: number; channels: Float32Array[] } => ({
      sampleRate: RATE,
      channels: [tone],
    })
    const steps = (x: Float32Array): number => {
      // the third difference stands out at a click and hardly at a smooth wave
      let most = 0
      for (let i = 3; i < x.length; i++)
        most = Math.max(
          most,
          Math.abs((x[i] ?? 0) - 3 * (x[i - 1] ?? 0) + 3 * (x[i - 2] ?? 0) - (x[i - 3] ?? 0)),
        )
      return most
    }
    const swapped = edited(project, shiftNode('growl-drive', -1))
    const { left } = play({ project, audio }, 2, { 300: (e) => e.update(swapped) })
    const before = steps(left.slice(24_000, 37_000))
    const after = steps(left.slice(60_000, 90_000))
    expect(steps(left.slice(37_000, 50_000))).toBeLessThan(Math.max(before, after) + 0.001)
  })
})

describe('rich sine, on the demo’s own chain', () => {
  it.each([6, 12, 18, 24])(
    'folded with %i dB of gain, its harmonics up to the 15th are those of theory within 0.5 dB',
    (gain) => {
      // a pitch with a whole number of periods in the stretch that is measured
      const hz = 117.1875
      const p = edited(
        alone(studies, 'rich'),
        removeLinks(['to-rich-folder-gain']),
        setParam('rich-folder', 'gain', gain),
        setParam('rich-folder', 'makeup', 0),
        setParam('rich-source', 'frequency', hz),
        setParam('rich-source', 'level', 0),
        setParam('rich', 'level', 0),
      )
      const { left } = record(p, 1.5, {})
      const n = 65_536
      const theory = Float32Array.from(
        { length: n },
        (_, i) => -0.6 + 1.2 * fold((Math.sin((2 * Math.PI * i) / n) * 10 ** (gain / 20) + 0.6) / 1.2, 4),
      )
      for (let h = 1; h <= 15; h++) {
        const wanted = db(toneAt(theory, h, n).amplitude)
        if (wanted < -60) continue
        expect(
          Math.abs(db(toneAt(left.slice(-32_768), h * hz).amplitude) - wanted),
          `harmonic ${h}`,
        ).toBeLessThan(0.5)
      }
    },
  )
})

describe('new snare, on the demo’s own chain', () => {
  const p = alone(studies, 'new-snare')
  const loudness = (project: Project): number => {
    const { left } = record(project, 5, { sounds: soundsOf('new-snare') })
    const meter = new LoudnessMeter(RATE)
    for (let at = 0; at + 128 <= left.length; at += 128)
      meter.process(left.subarray(at, at + 128), left.subarray(at, at + 128))
    return meter.integrated
  }
  it('each step is another sound, and close enough in loudness to be matched', () => {
    const chain = ['snare-comp', 'snare-drive', 'snare-comb']
    const steps = [0, 1, 2, 3].map((n) => edited(p, ...chain.slice(n).map((id) => setParam(id, 'on', 0))))
    const levels = steps.map(loudness)
    for (const l of levels) expect(Math.abs(l - (levels[0] ?? 0))).toBeLessThan(12)
    const sounds = steps.map((s) => record(s, 2.5, { sounds: soundsOf('new-snare') }).left)
    for (let k = 1; k < 4; k++) {
      const matched = 10 ** (((levels[k - 1] ?? 0) - (levels[k] ?? 0)) / 20)
      const [a, b] = [sounds[k - 1] ?? noise(1), sounds[k] ?? noise(1)]
      expect(db(rms(a.map((v, i) => v - matched * (b[i] ?? 0))) / rms(a)), `step ${k}`).toBeGreaterThan(-20)
    }
  })
  it('the comb is moved at a rate that the song does not know', () => {
    const { values } = record(p, 2, { sounds: soundsOf('new-snare'), key: 'live:snare-comb.frequency' })
    const middle = (Math.max(...values) + Math.min(...values)) / 2
    const rises = values.filter((v, i) => i > 0 && (values[i - 1] ?? 0) < middle && v >= middle).length
    expect(rises / 2).toBeCloseTo(23.7, 0)
  })
})
