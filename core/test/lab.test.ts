import { describe, expect, it } from 'vitest'
import { filterResponse } from '@oleaje/core/analysis/response'
import { compressorCurve } from '@oleaje/core/effects/compressor'
import { aliases } from '@oleaje/core/lab/aliases'
import { dynamics } from '@oleaje/core/lab/dynamics'
import { harmonicsByLevel } from '@oleaje/core/lab/harmonics'
import { intermodulation } from '@oleaje/core/lab/intermodulation'
import { askedAgain, difference, keptCurves, toKeep } from '@oleaje/core/lab/kept'
import { measure, measurementIds } from '@oleaje/core/lab/measurements'
import { aWeighting, noiseFloor } from '@oleaje/core/lab/noise-floor'
import { overTime } from '@oleaje/core/lab/over-time'
import type { LabResult } from '@oleaje/core/lab/result'
import { octaves, reverberation } from '@oleaje/core/lab/reverberation'
import { type LabSettings, usualLabSettings } from '@oleaje/core/lab/settings'
import { type LabSubject, frozenAt } from '@oleaje/core/lab/subject'
import { stereo } from '@oleaje/core/lab/stereo'
import { type Through, chainThrough } from '@oleaje/core/lab/through'
import { transfer } from '@oleaje/core/lab/transfer'
import { keepMeasurement, removeMeasurement } from '@oleaje/core/project/measurement-edits'
import { readProject } from '@oleaje/core/project/read'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { edited, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const silent = (): null => null
const settings = (o: Partial<LabSettings> = {}): LabSettings => ({ ...usualLabSettings, ...o })
const subject = (project: Project, o: Partial<LabSubject> = {}): LabSubject => ({
  name: 'chain',
  project,
  track: 't',
  scope: 'chain',
  ...o,
})
const chain = (nodes: ChainNode[], sampleRate = RATE): LabSubject =>
  subject({ ...projectOf(new Float32Array(8), nodes).project, sampleRate })
const found = (id: Parameters<typeof measure>[0], s: LabSubject, o: Partial<LabSettings> = {}): LabResult =>
  measure(id, s, settings(o), silent)
const curve = (r: LabResult, chart: string, name?: string) => {
  const c = r.charts.find((k) => k.id === chart)?.curves.find((k) => name === undefined || k.name === name)
  if (!c) throw new Error(`no curve ${chart} ${name}`)
  return c
}
const figure = (r: LabResult, name: string, unit?: string): number =>
  r.figures.find((f) => f.name === name && (unit === undefined || f.unit === unit))?.value ?? NaN
const worst = (list: ArrayLike<number>, wanted: (i: number) => number): number =>
  Array.from(list).reduce((most, v, i) => Math.max(most, Math.abs(v - wanted(i))), 0)
/** A curve without memory in place of a chain. */
const curved = (f: (x: number) => number): Through => ({
  sampleRate: RATE,
  latency: 0,
  run: ([left, right]) => [left.map(f), right.map(f)],
})
const at = (c: { x: Float64Array; y: Float64Array }, x: number): number =>
  c.y[c.x.findIndex((v) => v >= x - 1e-9)] ?? NaN
const decibel = (x: number): number => 20 * Math.log10(x)

describe('response', () => {
  const values = { cutoff: 1237, resonance: 2.3, shape: 0.4, slope: 0, spread: 0, output: -3.7, drive: 0 }
  it.each([44_100, 48_000, 96_000])(
    'of a filter is its closed form at %i Hz: 0.05 dB, 0.5°, 1 µs',
    (rate) => {
      const r = found('response', chain([newEffect('filter', values)], rate))
      const magnitude = curve(r, 'magnitude')
      const form = (f: number) => filterResponse(values, f, rate)
      // what is far below is not told apart from the ends of the sweep
      const heard = Array.from(magnitude.x).map((f) => decibel(form(f).magnitude) > -50)
      expect(
        worst(magnitude.y, (i) => (heard[i] ? decibel(form(magnitude.x[i]!).magnitude) : magnitude.y[i]!)),
      ).toBeLessThan(0.05)
      const phase = curve(r, 'phase')
      const off = (i: number): number => {
        const d = phase.y[i]! - (form(phase.x[i]!).phase * 180) / Math.PI
        return heard[i] ? Math.abs(d - 360 * Math.round(d / 360)) : 0
      }
      expect(Math.max(...Array.from(phase.x, (_, i) => off(i)))).toBeLessThan(0.5)
      const delay = curve(r, 'group-delay')
      const slope = (f: number): number => {
        const d = form(f * 1.0001).phase - form(f / 1.0001).phase
        return (
          (-(d - 2 * Math.PI * Math.round(d / 2 / Math.PI)) / (2 * Math.PI * f * (1.0001 - 1 / 1.0001))) *
          1000
        )
      }
      expect(
        worst(delay.y, (i) => (heard[i] && delay.x[i]! > 30 ? slope(delay.x[i]!) : delay.y[i]!)),
      ).toBeLessThan(0.001)
    },
  )

  it('of nothing is flat, and of a drive at low level too', () => {
    const flat = curve(found('response', chain([])), 'magnitude')
    expect(worst(flat.y, () => 0)).toBeLessThan(0.001)
    const drive = newEffect('drive', { drive: 0, output: 0, curve: 2, tone: 20_000 })
    const driven = curve(found('response', chain([drive]), { level: -24 }), 'magnitude')
    expect(Math.abs(at(driven, 1000))).toBeLessThan(0.1)
  })

  it('freezes what moves at the asked moment, or lets it run', () => {
    const { project, audio } = projectOf(noise(1, 1), [newEffect('filter', { cutoff: 400 }, 'f')])
    const moving = edited(
      project,
      addModulator('t', 'lfo', { id: 'm' }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.1, 0.4, { mode: 'floating' }),
    )
    const still = [0.37, 1.1].map((beat) => frozenAt(moving, beat, audio))
    const cutoffs = still.map(
      (p) => (p.tracks[0]!.a.nodes[0] as { params: Record<string, number> }).params.cutoff!,
    )
    expect(Math.abs(cutoffs[0]! - cutoffs[1]!)).toBeGreaterThan(20)
    expect(still[0]!.links).toHaveLength(0)
    const frozen = curve(found('response', subject(moving), { moment: 0.37 }), 'magnitude')
    const set = curve(found('response', chain([newEffect('filter', { cutoff: cutoffs[0]! })])), 'magnitude')
    expect(worst(frozen.y, (i) => set.y[i]!)).toBeLessThan(0.001)
    const running = curve(found('response', subject(moving), { modulation: 'running' }), 'magnitude')
    expect(worst(running.y, (i) => set.y[i]!)).toBeGreaterThan(1)
  })

  it('measures one effect, a branch, or all up to an effect', () => {
    const nodes = [newEffect('gain', { level: -6 }, 'a'), newEffect('gain', { level: -12 }, 'b')]
    const s = chain(nodes)
    const gain = (o: Partial<LabSubject>): number =>
      at(curve(found('response', { ...s, ...o }), 'magnitude'), 1000)
    expect(gain({})).toBeCloseTo(-18, 2)
    expect(gain({ scope: 'up to here', node: 'a' })).toBeCloseTo(-6, 2)
    expect(gain({ scope: 'effect', node: 'b' })).toBeCloseTo(-12, 2)
  })
})

describe('distortion', () => {
  const [a2, a3] = [0.1, 0.05]
  const polynomial = curved((x) => x + a2 * x * x + a3 * x ** 3)

  it('of a known curve has its harmonics, THD and THD+N within 0.1 dB', () => {
    const r = harmonicsByLevel(polynomial, settings({ frequency: 311, level: -7 }))
    for (const db of [-20, -7.5, 0]) {
      const a = 10 ** (db / 20)
      const first = a + 0.75 * a3 * a ** 3
      const [second, third] = [(a2 * a * a) / 2 / first, (a3 * a ** 3) / 4 / first]
      expect(Math.abs(at(curve(r, 'harmonics', '2nd'), db) - decibel(second))).toBeLessThan(0.1)
      expect(Math.abs(at(curve(r, 'harmonics', '3rd'), db) - decibel(third))).toBeLessThan(0.1)
      const thd = Math.hypot(second, third)
      expect(Math.abs(at(curve(r, 'distortion', 'THD'), db) - decibel(thd))).toBeLessThan(0.1)
      expect(
        Math.abs(at(curve(r, 'distortion', 'THD+N'), db) - decibel(thd / Math.hypot(1, thd))),
      ).toBeLessThan(0.1)
    }
    const a = 10 ** (-7 / 20)
    const first = a + 0.75 * a3 * a ** 3
    expect(figure(r, 'THD at the set level')).toBeCloseTo(
      (100 * Math.hypot((a2 * a * a) / 2, (a3 * a ** 3) / 4)) / first,
      3,
    )
  })

  it('of the hard clip of Drive is that of a clipped sine within 0.1 dB', () => {
    const drive = newEffect('drive', {
      drive: 12,
      output: 0,
      curve: 2,
      tone: 20_000,
      before: 20_000,
      lowCut: 20,
    })
    const r = found('harmonics-by-level', chain([drive]), { frequency: 311 })
    const gain = 10 ** (12 / 20)
    const harmonic = (n: number, a: number): number => {
      let sum = 0
      const points = 20_000
      for (let i = 0; i < points; i++) {
        const y = Math.max(-1, Math.min(1, a * Math.sin((2 * Math.PI * (i + 0.5)) / points)))
        sum += y * Math.sin((2 * Math.PI * n * (i + 0.5)) / points)
      }
      return (2 * sum) / points
    }
    for (const db of [-5, -2.5, 0]) {
      const a = gain * 10 ** (db / 20)
      expect(at(curve(r, 'harmonics', '3rd'), db)).toBeCloseTo(
        decibel(Math.abs(harmonic(3, a) / harmonic(1, a))),
        0.7,
      )
      expect(
        Math.abs(at(curve(r, 'harmonics', '5th'), db) - decibel(Math.abs(harmonic(5, a) / harmonic(1, a)))),
      ).toBeLessThan(0.1)
    }
    // below the clip it is clean
    expect(at(curve(r, 'distortion', 'THD'), -20)).toBeLessThan(-90)
  })

  it('of tones above the sample rate is told as aliases', () => {
    const r = aliases(polynomial, settings({ level: 0, frequency: 19_000 }))
    const first = 1 + 0.75 * a3
    expect(Math.abs(at(curve(r, 'aliases', 'Strongest'), 15_000) - decibel(a2 / 2 / first))).toBeLessThan(0.1)
    // a cube of a low tone stays below half the rate
    expect(at(curve(r, 'aliases', 'All together'), 1000)).toBeLessThan(-140)
    expect(curve(r, 'spectrum', 'Aliases').x.length).toBeGreaterThan(3)
  })

  it('of two tones is their intermodulation by SMPTE and CCIF', () => {
    const square = intermodulation(curved((x) => x + a2 * x * x))
    // a2·(A + B)² has 2·a2·A·B at the sum and the difference, half of it at each
    expect(
      Math.abs(
        at(curve(square, 'intermodulation', 'SMPTE, 60 Hz and 7 kHz'), 0) - decibel(Math.SQRT2 * a2 * 0.8),
      ),
    ).toBeLessThan(0.1)
    expect(
      Math.abs(at(curve(square, 'intermodulation', 'CCIF, 19 and 20 kHz'), 0) - decibel((a2 * 0.25) / 1)),
    ).toBeLessThan(0.1)
  })

  it('is drawn as the curve itself', () => {
    const r = transfer(polynomial, settings({ level: 0, frequency: 107 }))
    const c = curve(r, 'transfer')
    expect(worst(c.y, (i) => c.x[i]! + a2 * c.x[i]! ** 2 + a3 * c.x[i]! ** 3)).toBeLessThan(1e-6)
  })
})

describe('dynamics', () => {
  it('of a compressor is its curve within 0.1 dB, and its times within 5 %', () => {
    // an RMS detector reads a sine 3 dB below its peak, and takes 10 ms for it: times are long beside that
    const values = { threshold: -31, ratio: 3.7, knee: 9, attack: 0.23, release: 0.29, detector: 1 }
    const r = found('dynamics', chain([newEffect('compressor', values)]), { level: -10 })
    const gain = curve(r, 'gain')
    expect(
      worst(gain.y, (i) => compressorCurve(gain.x[i]! - 3.01, values.threshold, values.ratio, values.knee)),
    ).toBeLessThan(0.1)
    expect(Math.abs(figure(r, 'Attack') / 230 - 1)).toBeLessThan(0.05)
    expect(Math.abs(figure(r, 'Release') / 290 - 1)).toBeLessThan(0.05)
  })

  it('tells times of a known approach within 5 %', () => {
    const [attack, release] = [0.0137, 0.211]
    const through: Through = {
      sampleRate: RATE,
      latency: 0,
      run: ([left, right]) => {
        // a gain in dB that nears −12 while the tone is loud, and 0 while it is not
        let db = 0
        const gains = left.map((_, i) => {
          const loud = Math.floor(i / RATE / 1.5) === 1
          db += ((loud ? -12 : 0) - db) * (1 - Math.exp(-1 / RATE / (loud ? attack : release)))
          return 10 ** (db / 20)
        })
        return [left.map((v, i) => v * gains[i]!), right.map((v, i) => v * gains[i]!)]
      },
    }
    const r = dynamics(through, settings({ level: -6 }))
    expect(Math.abs(figure(r, 'Attack') / 1000 / attack - 1)).toBeLessThan(0.05)
    expect(Math.abs(figure(r, 'Release') / 1000 / release - 1)).toBeLessThan(0.05)
  })
})

describe('time', () => {
  it('echoes stand where a delay sets them, each as much softer as its feedback says', () => {
    const delay = newEffect('delay', {
      time: 0.37,
      feedback: 0.5,
      wet: 1,
      lowCut: 20,
      highCut: 20_000,
      drive: 0,
    })
    const r = found('echoes', chain([delay]), { seconds: 1.6 })
    const c = curve(r, 'echoes', 'left')
    const strongest = Array.from(c.x, (x, i) => [x, c.y[i]!] as const)
      .filter(([, y]) => y > -30)
      .filter(([x], i, all) => i === 0 || x - all[i - 1]![0] > 20)
    expect(strongest.length).toBe(4)
    strongest.forEach(([x], i) => expect(Math.abs(x - 370 * (i + 1))).toBeLessThan(0.2))
  })

  it('reverberation of a known decay is told within 5 %, by octave', () => {
    const seconds = [1.7, 0.6]
    for (const rt of seconds) {
      // three sines in each octave, which decay as noise does on average
      const tail = Float32Array.from({ length: 4 * RATE }, (_, i) => {
        const sines = octaves.flatMap((hz) =>
          [0.87, 1, 1.13].map((by) => Math.sin((2 * Math.PI * hz * by * i) / RATE)),
        )
        return 0.03 * sines.reduce((a, b) => a + b, 0) * 10 ** ((-3 * i) / RATE / rt)
      })
      const through: Through = {
        sampleRate: RATE,
        latency: 0,
        run: ([left]) => {
          const out = new Float32Array(left.length)
          out.set(tail.map((v) => v * (left[0] ?? 0)))
          return [out, out.slice()]
        },
      }
      const c = curve(reverberation(through), 'rt60', 'RT60')
      expect(worst(c.y, () => rt) / rt).toBeLessThan(0.05)
    }
  })

  it('reverberation of Reverb is what it is set to', () => {
    const r = found(
      'reverberation',
      chain([newEffect('reverb', { decay: 1.9, wet: 1, lows: 1, highs: 1, motion: 0 })]),
    )
    expect(Math.abs(figure(r, 'RT60, 500 Hz and 1 kHz') / 1.9 - 1)).toBeLessThan(0.05)
  })

  it('latency is exact', () => {
    const ahead = newEffect('compressor', { threshold: 0, ahead: 2 })
    const r = found('latency', chain([ahead]))
    expect(figure(r, 'Declared', 'samples')).toBe(144)
    expect(figure(r, 'Click arrives after', 'samples')).toBe(144)
    expect(figure(found('latency', chain([])), 'Click arrives after', 'samples')).toBe(0)
  })
})

describe('stereo and level', () => {
  it('tells mono from sides that have nothing in common', () => {
    const mono = stereo(
      curved((x) => x),
      settings({ seconds: 3 }),
    )
    expect(figure(mono, 'Correlation')).toBeCloseTo(1, 6)
    expect(figure(mono, 'Width')).toBeLessThan(-50)
    const apart: Through = {
      sampleRate: RATE,
      latency: 0,
      run: ([left]) => [noise(left.length / RATE, 1), noise(left.length / RATE, 2)],
    }
    const wide = stereo(apart, settings({ seconds: 3 }))
    expect(Math.abs(figure(wide, 'Correlation'))).toBeLessThan(0.03)
    expect(Math.abs(figure(wide, 'Width'))).toBeLessThan(0.3)
  })

  it('reads a tone of −23 dBFS as −23 LUFS (EBU Tech 3341) with a crest of 3 dB', () => {
    const tone = Float32Array.from(
      { length: 10 * RATE },
      (_, i) => 10 ** (-23 / 20) * Math.sin((2 * Math.PI * 1000 * i) / RATE),
    )
    const r = overTime([tone, tone], RATE)
    expect(figure(r, 'Integrated')).toBeCloseTo(-23, 1)
    expect(at(curve(r, 'loudness', 'Momentary'), 5)).toBeCloseTo(-23, 1)
    expect(at(curve(r, 'crest'), 5)).toBeCloseTo(3.01, 1)
  })

  it('reads noise of a known level, and weights it by the ear', () => {
    const hiss: Through = {
      sampleRate: RATE,
      latency: 0,
      run: ([left]) =>
        [1, 2].map((seed) => noise(left.length / RATE, seed, 0.001)) as [Float32Array, Float32Array],
    }
    const r = noiseFloor(hiss, settings({ seconds: 3 }))
    const [left] = hiss.run([new Float32Array(RATE), new Float32Array(RATE)])
    const rms = decibel(Math.sqrt(left.reduce((sum, v) => sum + v * v, 0) / left.length))
    expect(figure(r, 'RMS')).toBeCloseTo(rms, 1)
    expect(aWeighting(1000)).toBeCloseTo(0, 1)
    expect(aWeighting(100)).toBeCloseTo(-19.1, 1)
    expect(figure(found('noise', chain([])), 'RMS')).toBeNaN()
  })
})

it('every measurement of a whole chain gives charts with finite values, the same each time', () => {
  const nodes = [
    newEffect('drive', { drive: 9 }),
    newEffect('delay', { time: 0.11 }),
    newEffect('compressor', { threshold: -20 }),
  ]
  const s = chain(nodes, 44_100)
  for (const id of measurementIds) {
    const r = found(id, s, { seconds: 1 })
    expect(r.charts.length, id).toBeGreaterThan(0)
    for (const c of r.charts) {
      for (const { x, y } of c.curves) {
        expect(x.length, `${id} ${c.id}`).toBe(y.length)
        expect(x.every(Number.isFinite), `${id} ${c.id}`).toBe(true)
        expect(
          y.every((v) => Number.isNaN(v) || Number.isFinite(v)),
          `${id} ${c.id}`,
        ).toBe(true)
      }
    }
    if (id === 'latency' || id === 'echoes') expect(found(id, s, { seconds: 1 })).toEqual(r)
  }
})

describe('kept measurements', () => {
  const s = chain([newEffect('filter', { cutoff: 811 }, 'f')])
  const result = found('response', s)
  const kept = toKeep(
    'm',
    'name',
    'response',
    { ...s, scope: 'up to here', node: 'f' },
    settings({ level: -17 }),
    result,
  )

  it('go through the file of a project and ask for the same again', () => {
    const project = edited(s.project, keepMeasurement(kept))
    const read = readProject(JSON.stringify(project)).measurements?.[0]
    expect(read).toEqual(kept)
    expect(askedAgain(read!)).toEqual({
      kind: 'response',
      scope: 'up to here',
      settings: settings({ level: -17 }),
    })
    expect(askedAgain({ ...kept, kind: 'from a later version' })).toBeNull()
    expect(edited(project, removeMeasurement('m')).measurements).toEqual([])
  })

  it('differ by nothing where nothing has changed, and by as much as something has', () => {
    const now = curve(result, 'magnitude')
    const before = keptCurves(kept, 'magnitude')[0]!
    expect(worst(difference(now, before).y, () => 0)).toBeLessThan(1e-3)
    const louder = { ...now, y: now.y.map((v) => v + 2.5) }
    expect(worst(difference(louder, before).y, () => 2.5)).toBeLessThan(1e-3)
    expect(difference({ ...now, x: now.x.map((x) => x / 100) }, before).y.every(Number.isNaN)).toBe(false)
    expect(difference({ ...now, x: now.x.map((x) => x / 1e6) }, before).y.every(Number.isNaN)).toBe(true)
  })
})

it('a chain is measured as it is played: its running output is the render of the signal through it', () => {
  const nodes = [newEffect('filter', { cutoff: 700 }, 'f')]
  const { project, audio } = projectOf(noise(3, 1), nodes)
  const through = chainThrough(subject(project), settings(), audio)
  const signal = noise(3, 1)
  const [once] = through.run([signal, signal])
  const [again] = through.run([signal, signal])
  expect(once.reduce((n, v, i) => n + (v === again[i] ? 0 : 1), 0)).toBe(0)
})
