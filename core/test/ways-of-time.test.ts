import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { loopBackAround, setSplitMode } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newLoopBack, newSplit } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, place, play, projectOf } from './project-rig'
import { RATE, db, noise, peak, rms, sine, spectrumDb, toneAt } from './rig'

/** What a chain makes of a sound, both sides. */
function through(sound: Float32Array, nodes: ChainNode[], seconds: number, change: (p: Project) => Project = (p) => p) {
  const made = projectOf(sound, nodes)
  return play({ ...made, project: change(made.project) }, seconds)
}

/** Turns of phase of a tone over a stretch, from its start to its end, against the tone asked for. */
function drift(x: Float32Array, hz: number, from: number, seconds: number): number {
  const n = 9600
  const phase = (at: number): number => {
    let re = 0
    let im = 0
    for (let i = 0; i < n; i++) {
      const w = 0.5 - 0.5 * Math.cos(2 * Math.PI * i / n)
      const p = 2 * Math.PI * hz * (at + i) / RATE
      re += w * x[at + i]! * Math.cos(p)
      im -= w * x[at + i]! * Math.sin(p)
    }
    return Math.atan2(im, re) / (2 * Math.PI)
  }
  let turns = 0
  let last = phase(from)
  const steps = Math.round(seconds * 40)
  for (let k = 1; k <= steps; k++) {
    const next = phase(from + k * 1200)
    turns += next - last - Math.round(next - last)
    last = next
  }
  return turns / seconds
}
const centsOff = (x: Float32Array, hz: number, from = RATE / 2, seconds = 1): number => 1200 * Math.log2(1 + drift(x, hz, from, seconds) / hz)

/** Largest line near a frequency, in dB. */
function line(spectrum: Float64Array, hz: number, n: number, width = 4): number {
  const k = Math.round(Math.abs(hz) * n / RATE)
  let most = -300
  for (let j = Math.max(0, k - width); j <= k + width; j++) most = Math.max(most, spectrum[j] ?? -300)
  return most
}

describe('Pitch', () => {
  it.each([[0, 82.41, 12], [0, 82.41, -12], [0, 311, 7.37], [0, 1046.5, -5], [0, 110, -24], [1, 82.41, 12], [1, 82.41, -12], [1, 311, 7.37], [1, 1046.5, 12], [1, 196, -24]])('quality %i: %d Hz by %d st is right within a cent by phase over a second', (quality, hz, st) => {
    const { left } = through(sine(hz, 2.2, 0.4), [newEffect('pitch', { quality, pitch: st }, 'p')], 2.1)
    expect(Math.abs(centsOff(left, hz * 2 ** (st / 12), RATE / 2, 1))).toBeLessThan(1)
  })
  it('quick: mean latency is at most 25 ms, and an onset keeps its rise and comes once', () => {
    for (const st of [12, -12, 7]) {
      const ratio = 2 ** (st / 12)
      // a drum: noise that rises within 3 ms and falls
      const hit = noise(0.5, 5, 0.8).map((v, i) => v * Math.min(1, i / 144) * Math.exp(-i / 2400))
      const x = new Float32Array(RATE)
      const at = Math.round(0.31 * RATE)
      x.set(hit.subarray(0, RATE - at), at)
      const { left } = through(x, [newEffect('pitch', { pitch: st }, 'p')], 1)
      const rise = (y: Float32Array): { from: number, rise: number } => {
        const envelope = y.map((_, i) => rms(y.subarray(Math.max(0, i - 48), i + 48)))
        const most = peak(envelope)
        const low = envelope.findIndex((v) => v > 0.1 * most)
        return { from: low, rise: envelope.findIndex((v) => v > 0.9 * most) - low }
      }
      const inEnd = rise(x.subarray(at - 2000, at + 6000)), outEnd = rise(left.subarray(at - 2000, at + 6000))
      expect(outEnd.from - inEnd.from, `latency at ${st}`).toBeLessThan(0.041 * RATE)
      expect(outEnd.rise, `rise at ${st}`).toBeLessThan(1.2 * Math.max(inEnd.rise / ratio, inEnd.rise) + 48)
      // nothing of it is heard before
      expect(db(peak(left.subarray(0, at - 48)))).toBeLessThan(-60)
    }
  })
  it.each([[12, 0], [-12, 0], [7, 0], [-5, 0]])('quick: a drum shifted by %i st has no second onset above −20 dB', (st) => {
    const x = new Float32Array(RATE)
    const at = Math.round(0.31 * RATE)
    const hit = noise(0.6, 5, 0.5).map((v, i) => (v * Math.exp(-i / 400) + 0.6 * Math.sin(2 * Math.PI * 183 * i / RATE) * Math.exp(-i / 3800)) * Math.min(1, i / 48))
    x.set(hit.subarray(0, RATE - at), at)
    const { left } = through(x, [newEffect('pitch', { pitch: st }, 'p')], 1)
    // level over windows of a period of the drum's tone, a millisecond apart
    const window = Math.round(RATE / 183 / 2 ** (st / 12))
    const levels: number[] = []
    for (let i = at; i + window < RATE; i += 48) levels.push(rms(left.subarray(i, i + window)))
    const most = levels.reduce((best, v, i) => (v > levels[best]! ? i : best), 0)
    let least = levels[most]!
    let rise = 0
    for (const v of levels.slice(most + 12)) {
      least = Math.min(least, v)
      rise = Math.max(rise, v - least)
    }
    expect(db(rise / levels[most]!)).toBeLessThan(-20)
  })
  it('fine: formants stay within 5 % while a source of 100 Hz is shifted, and go with the pitch where they should', () => {
    /** A source of `hz`, swept by 20 % either way, through resonances at 700 and 1800 Hz. */
    const voice = (hz: number): Float32Array => {
      const x = new Float32Array(3 * RATE)
      let turns = 0
      for (let i = 0; i < x.length; i++) {
        const f0 = hz * (1 + 0.2 * Math.sin(2 * Math.PI * 0.7 * i / RATE))
        turns += f0 / RATE
        for (let h = 1; h * f0 < 5000; h++) {
          const f = h * f0
          x[i]! += 0.06 * (1 / (1 + ((f - 700) / 90) ** 2) + 0.5 / (1 + ((f - 1800) / 120) ** 2) + 0.004) * Math.sin(2 * Math.PI * h * turns + h * h)
        }
      }
      return x
    }
    const formant = (y: Float32Array, from: number, to: number): number => {
      const n = 65_536
      const s = spectrumDb(y.subarray(RATE, RATE + n))
      let sum = 0
      let weight = 0
      for (let k = Math.round(from * n / RATE); k < to * n / RATE; k++) {
        const e = 10 ** (s[k]! / 10)
        sum += e * k * RATE / n
        weight += e
      }
      return sum / weight
    }
    for (const st of [-12, -5, 7]) {
      const kept = through(voice(100), [newEffect('pitch', { quality: 1, pitch: st, formants: 1 }, 'p')], 3).left
      expect(Math.abs(formant(kept, 450, 1000) / formant(voice(100), 450, 1000) - 1), `${st} kept`).toBeLessThan(0.05)
    }
    const along = through(voice(100), [newEffect('pitch', { quality: 1, pitch: 7, formants: 0 }, 'p')], 3).left
    expect(formant(along, 800, 1400) / 1049).toBeCloseTo(1, 1)
  })
})

describe('Frequency shift', () => {
  it.each([[41, 100], [311, 41], [1000, -253], [5003, 1234], [12_011, 4999], [17_990, 3001], [61, -1000], [18_000, -5000]])('%i Hz by %i Hz: image and folding below −60 dB', (hz, by) => {
    const { left } = through(sine(hz, 2, 0.5), [newEffect('frequency-shift', { shift: by }, 'f')], 2)
    const n = 65_536
    const s = spectrumDb(left.subarray(20_000, 20_000 + n))
    const wanted = line(s, hz + by, n)
    let rest = -300
    const k = Math.round(Math.abs(hz + by) * n / RATE)
    for (let j = 2; j < n / 2; j++) if (Math.abs(j - k) > 8) rest = Math.max(rest, s[j]!)
    expect(rest - wanted).toBeLessThan(-60)
  })
  it('a spiral at 98 % of feedback stays bounded', () => {
    const { left } = through(noise(6, 3, 0.5), [newEffect('frequency-shift', { shift: 37, feedback: 0.98, time: 0.013 }, 'f')], 6)
    expect(peak(left)).toBeLessThan(20)
  })
})

describe('Wow', () => {
  /** Pitch of a tone over time in cents, by the times of every eighth rise through zero. */
  function pitchOf(x: Float32Array, hz: number): { at: number, cents: number, seconds: number }[] {
    const out: { at: number, cents: number, seconds: number }[] = []
    let last = NaN
    let count = 0
    for (let i = 1; i < x.length; i++) {
      if (!(x[i]! >= 0 && x[i - 1]! < 0) || count++ % 8 !== 0) continue
      const t = (i - x[i]! / (x[i]! - x[i - 1]!)) / RATE
      if (!Number.isNaN(last)) out.push({ at: (t + last) / 2, cents: 1200 * Math.log2(8 / (t - last) / hz), seconds: t - last })
      last = t
    }
    return out
  }
  it.each([[0.43, 0.55, 1], [0.31, 1.3, 0], [0.5, 0.31, 2], [0.17, 3.1, 0]])('a wave of %d st at %d Hz is so deep, within a cent', (depth, rate, reach) => {
    const { left } = through(sine(2003, 9, 0.4), [newEffect('wow', { reach, depth, rate, irregular: 0, flutter: 0 }, 'w')], 9)
    const pitch = pitchOf(left.subarray(RATE), 2003)
    let a = 0
    let b = 0
    // over whole turns, as sums over part of one would not be of a sine alone
    const whole = pitch.filter((p) => p.at < Math.floor(8 * rate) / rate)
    for (const { at, cents } of whole) {
      a += 2 * cents * Math.sin(2 * Math.PI * rate * at) / whole.length
      b += 2 * cents * Math.cos(2 * Math.PI * rate * at) / whole.length
    }
    expect(Math.abs(Math.hypot(a, b) - 100 * depth)).toBeLessThan(0.5)
    for (const { at, cents } of whole) expect(Math.abs(cents - a * Math.sin(2 * Math.PI * rate * at) - b * Math.cos(2 * Math.PI * rate * at))).toBeLessThan(1)
  })
  it('irregular, it does not repeat: no peak of the autocorrelation beyond 2 s', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 90
    const cents = new Float64Array(Math.floor(seconds * RATE / BLOCK))
    play(projectOf(noise(1), [newEffect('wow', { irregular: 0.6, flutter: 0, depth: 0.3, rate: 0.55 }, 'w')]), seconds, {}, (e, b) => {
      const step = (e as unknown as { plan: { steps: Map<string, { processor: { readouts: Float64Array } }> } }).plan.steps.get('node:w')
      if (b < cents.length) cents[b] = step!.processor.readouts[0]!
    })
    const every = Float64Array.from({ length: Math.floor(cents.length / 16) }, (_, i) => cents[16 * i]!)
    const energy = every.reduce((s, v) => s + v * v, 0)
    const perSecond = RATE / BLOCK / 16
    let most = 0
    for (let lag = Math.ceil(2 * perSecond); lag < every.length / 2; lag++) {
      let sum = 0
      for (let i = lag; i < every.length; i++) sum += every[i]! * every[i - lag]!
      most = Math.max(most, sum / energy)
    }
    expect(energy).toBeGreaterThan(0)
    expect(most).toBeLessThan(0.6)
  })
  it('jumps come back to rest', () => {
    const { left } = through(sine(997, 20, 0.4), [newEffect('wow', { depth: 0, flutter: 0, jumps: 20, jump: 0.4, back: 0.4 }, 'w')], 20)
    const pitch = pitchOf(left.subarray(RATE), 997)
    expect(Math.max(...pitch.map((p) => p.cents))).toBeGreaterThan(25)
    // no jump has left the sound elsewhere: what pitch has moved adds up to less than a millisecond
    const away = pitch.reduce((s, p) => s + (1 - 2 ** (p.cents / 1200)) * p.seconds, 0)
    expect(Math.abs(away)).toBeLessThan(0.001)
  })
})

describe('Chorus', () => {
  it('equals two Delays in a split whose times are linked to one LFO and its inverse, even in seconds', () => {
    const x = noise(2, 4, 0.3)
    const made = projectOf(x, [newEffect('chorus', { voices: 2, time: 0.0113, by: 1, reach: 0.0037, rate: 0.9, spread: 0, stereo: 0, feedback: 0, lowCut: 20 }, 'c')])
    const whole = play(made, 2).left
    const branches = ['a', 'b'].map((n) => {
      const b = newBranch(n, -3.0103, `b${n}`)
      b.nodes = [newEffect('delay', { time: 0.0113, feedback: 0, lowCut: 20, highCut: 20_000 }, `d${n}`)]
      return b
    })
    const parts = projectOf(x, [newSplit(branches, 's')])
    let p = edited(parts.project, together(setSplitMode('s', 'copies'), addModulator('t', 'lfo', { id: 'l', params: { rate: 0.9 } })))
    const at = (v: number): number => place(p, 'da', 'time', v)
    p = edited(p, addLink('l', { owner: 'da', param: 'time' }, at(0.0113 - 0.0037), at(0.0113 + 0.0037), { id: 'ka', mode: 'fixed' }), addLink('l', { owner: 'db', param: 'time' }, at(0.0113 + 0.0037), at(0.0113 - 0.0037), { id: 'kb', mode: 'fixed' }))
    const residue = (q: Project): number => {
      const made = play({ ...parts, project: q }, 2).left
      return db(rms(made.subarray(RATE / 2).map((v, i) => v - whole[RATE / 2 + i]!)) / rms(whole.subarray(RATE / 2)))
    }
    expect(residue(edited(p, updateLink('ka', { law: 'unit' }), updateLink('kb', { law: 'unit' })))).toBeLessThan(-60)
    // on the gauge's own scale, the swing is not even in seconds
    expect(residue(p)).toBeGreaterThan(-30)
  })
})

describe('Delay', () => {
  it('frozen, loses nothing', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 12
    const x = new Float32Array(Math.round(3 * RATE))
    x.set(noise(0.3, 6, 0.4), 0.2 * RATE)
    const made = projectOf(x, [newEffect('delay', { time: 0.4131, feedback: 0.7, saturation: 6, wet: 1 }, 'd')])
    const engine = new Engine({ sampleRate: RATE, audio: made.audio, looping: true })
    engine.load(made.project)
    engine.play(0)
    const l = new Float32Array(BLOCK), r = new Float32Array(BLOCK)
    const blocks = Math.round(seconds * RATE / BLOCK)
    const round = Math.round(0.4131 * RATE)
    const out = new Float32Array(blocks * BLOCK)
    for (let b = 0; b < blocks; b++) {
      if (b === Math.round(0.9 * RATE / BLOCK)) engine.update(edited(made.project, setParam('d', 'freeze', 1)))
      engine.process(l, r)
      out.set(engine.mix.left, b * BLOCK)
    }
    const from = 2 * RATE
    const rounds = Math.floor((out.length - from) / round) - 1
    expect(peak(out.subarray(from, from + round))).toBeGreaterThan(0.01)
    for (let i = 0; i < round; i++) if (out[from + i] !== out[from + rounds * round + i]) throw new Error(`sample ${i} has changed`)
  })
  it('with pitch in the loop, echo k is k times as far', () => {
    const x = new Float32Array(4 * RATE)
    x.set(sine(220, 0.3, 0.5).map((v, i) => v * Math.min(1, i / 480) * Math.min(1, (14_400 - i) / 480)))
    const { left } = through(x, [newEffect('delay', { time: 0.5, feedback: 0.9, pitch: 7, wet: 1, lowCut: 20, highCut: 20_000 }, 'd')], 2.6)
    for (const k of [1, 2, 3, 4]) {
      const hz = 220 * 2 ** (7 * k / 12)
      const stretch = left.subarray(Math.round((0.5 * k + 0.08) * RATE), Math.round((0.5 * k + 0.25) * RATE))
      const s = spectrumDb(stretch.subarray(0, 4096))
      const best = s.reduce((m, v, i) => (v > s[m]! ? i : m), 0) * RATE / 4096
      expect(Math.abs(best - hz)).toBeLessThan(9)
    }
  })
  it('gives as many repeats as are asked for', () => {
    const x = new Float32Array(4 * RATE)
    x.set(noise(0.05, 2, 0.5))
    const { left } = through(x, [newEffect('delay', { time: 0.3, feedback: 0.95, repeats: 3, wet: 1 }, 'd')], 3)
    const heard = (k: number): number => db(peak(left.subarray(Math.round((0.3 * k - 0.02) * RATE), Math.round((0.3 * k + 0.1) * RATE))))
    for (const k of [1, 2, 3]) expect(heard(k)).toBeGreaterThan(-20)
    expect(heard(4)).toBeLessThan(-40)
  })
  it('steps back while the input sounds and comes forward again', () => {
    const x = new Float32Array(3 * RATE)
    x.set(noise(1, 3, 0.5))
    const plain = through(x, [newEffect('delay', { time: 0.25, feedback: 0.9, wet: 1 }, 'd')], 3).left
    const ducked = through(x, [newEffect('delay', { time: 0.25, feedback: 0.9, wet: 1, duck: 20, release: 0.1 }, 'd')], 3).left
    const ratio = (from: number): number => db(rms(ducked.subarray(from * RATE, (from + 0.3) * RATE)) / rms(plain.subarray(from * RATE, (from + 0.3) * RATE)))
    expect(ratio(0.6)).toBeCloseTo(-20, 0)
    expect(ratio(2)).toBeGreaterThan(-0.5)
  })
  it('with trails rings on when it is switched off, and takes nothing in', () => {
    const x = new Float32Array(4 * RATE)
    x.set(noise(0.1, 3, 0.5))
    x.set(noise(0.1, 8, 0.5), 1.2 * RATE)
    const ring = (trails: number): Float32Array => {
      const made = projectOf(x, [newEffect('delay', { time: 0.25, feedback: 0.8, wet: 0.5, trails }, 'd')])
      return play(made, 2.5, { [Math.round(0.31 * RATE / BLOCK)]: (e) => e.update(edited(made.project, setParam('d', 'on', 0))) }).left
    }
    const on = ring(1), off = ring(0)
    const at = (y: Float32Array, s: number): number => peak(y.subarray(Math.round(s * RATE), Math.round((s + 0.11) * RATE)))
    expect(at(on, 0.5)).toBeGreaterThan(0.05)
    expect(at(off, 0.5)).toBeLessThan(1e-4)
    // what comes later is dry and alone
    expect(at(on, 1.2)).toBeGreaterThan(0.4)
    expect(at(on, 1.45)).toBeLessThan(2 * 0.5 * 0.8 ** 4 * 0.5)
  })
})

describe('Loop-back', () => {
  it('comes round after its whole time, what is inside included, by its feedback', () => {
    const x = new Float32Array(3 * RATE)
    x[1000] = 0.5
    const loop = newLoopBack([newEffect('limiter', {}, 'lim')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.31375, feedback: 0.5 }
    const { left, engine } = through(x, [loop], 2)
    const inside = engine.latency
    for (const k of [0, 1, 2, 3]) {
      const at = 1000 + inside + Math.round(k * 0.31375 * RATE)
      const near = peak(left.subarray(at - 6, at + 7))
      expect(db(near / (0.5 * 0.5 ** k))).toBeGreaterThan(-1.2)
    }
  })
  it('shimmer: each pass is an octave up within 2 cents, its level by the feedback within 0.2 dB', () => {
    const x = new Float32Array(5 * RATE)
    x.set(sine(131, 0.8, 0.4).map((v, i, all) => v * Math.min(1, i / 2400) * Math.min(1, (all.length - i) / 2400)))
    const loop = newLoopBack([newEffect('pitch', { quality: 1, pitch: 12 }, 'p')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 1, feedback: 0.7 }
    const { left } = through(x, [loop], 4.2)
    const level = (k: number): number => rms(left.subarray(Math.round((k - 1 + 0.35) * RATE), Math.round((k - 1 + 0.65) * RATE)))
    for (const k of [1, 2, 3, 4]) expect(Math.abs(centsOff(left, 131 * 2 ** k, Math.round((k - 1 + 0.3) * RATE), 0.2))).toBeLessThan(2)
    for (const k of [2, 3, 4]) expect(Math.abs(db(level(k) / level(k - 1)) - db(0.7))).toBeLessThan(0.2)
  })
  it('shimmer with a reverb: the energy of each octave falls by the gain of what is inside and the feedback, within 1.5 dB', () => {
    const x = new Float32Array(9 * RATE)
    x.set(noise(0.8, 6, 0.3).map((v, i, all) => v * Math.min(1, i / 2400) * Math.min(1, (all.length - i) / 2400)))
    const made = (feedback: number): Float32Array => {
      const loop = newLoopBack([newEffect('pitch', { quality: 1, pitch: 12 }, 'p'), newEffect('reverb', { decay: 0.7, motion: 0, lowCut: 20 }, 'r')], 'l')
      loop.params = { ...loop.params, sync: 0, time: 2.5, feedback }
      return through(x, [loop], 8).left
    }
    const energy = (y: Float32Array, pass: number): number => {
      let sum = 0
      for (let i = Math.round(2.5 * pass * RATE); i < 2.45 * (pass + 1) * RATE; i++) sum += y[i]! ** 2
      return 10 * Math.log10(sum)
    }
    const y = made(0.6), louder = made(0.8)
    // what is inside takes the same from a pass whatever the feedback: the difference between the two is the feedback alone
    for (const k of [1, 2]) expect(Math.abs(energy(louder, k) - energy(y, k) - k * (db(0.8) - db(0.6)))).toBeLessThan(1.5)
  })
  it('stays bounded at 120 % with a gain inside it', () => {
    const loop = newLoopBack([newEffect('gain', { level: 6 }, 'g')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.11, feedback: 1.2 }
    const { left } = through(noise(4, 5, 0.5), [loop], 8)
    expect(peak(left)).toBeLessThan(12)
  })
  it('is made around effects, and is the same sound as before with no feedback', () => {
    const x = noise(1, 7, 0.4)
    const nodes = (): ChainNode[] => [newEffect('filter', { cutoff: 900 }, 'f'), newEffect('drive', {}, 'd')]
    const plain = projectOf(x, nodes())
    const looped = edited(plain.project, loopBackAround(['f', 'd'], 'l'), setParam('l', 'feedback', 0))
    const a = play(plain, 1).left, b = play({ ...plain, project: looped }, 1).left
    expect(db(rms(a.map((v, i) => v - b[i]!)) / rms(a))).toBeLessThan(-120)
  })
})

describe('Stutter', () => {
  const row = (on: number[]): { steps: Record<string, number>[] } => ({ steps: on.map((v) => ({ on: v })) })
  /** A loop in which each time has its own pitch: where a sound was taken from can be told from it. */
  const ramp = Float32Array.from({ length: 6 * RATE }, (_, i) => 0.4 * Math.sin(2 * Math.PI * (200 * i / RATE + 50 * (i / RATE) ** 2)))
  it('closed, passes the sound as it is, to the bit', () => {
    const { left } = through(ramp, [{ ...newEffect('stutter', {}, 's'), lanes: row([0, 0]) }], 2)
    for (let i = 0; i < left.length; i++) if (left[i] !== ramp[i]) throw new Error(`differs at ${i}`)
  })
  it('repeats the slice that begins with the gate, at speed 1', () => {
    // a step is a beat of half a second; the gate opens at 0.5 s
    const { left } = through(ramp, [{ ...newEffect('stutter', { stepLength: 1, sync: 0, slice: 0.0531 }, 's'), lanes: row([0, 1, 0, 0]) }], 1.4)
    const at = Math.round(0.5 * RATE), n = Math.round(0.0531 * RATE)
    for (let k = 1; k < 8; k++) for (let i = 300; i < n - 10; i++) if (Math.abs(left[at + k * n + i]! - ramp[at + i]!) > 3e-3) throw new Error(`pass ${k} differs at ${i}: ${left[at + k * n + i]} ${ramp[at + i]}`)
    for (let i = Math.round(1.02 * RATE); i < 1.3 * RATE; i++) expect(left[i]).toBe(ramp[i])
  })
  it.each([[0.84, 5], [1.3, 5], [0.5, 3], [-0.9, 4]])('with the return after the speed, pass k plays at the k-th power of %d', (speed, last) => {
    const hz = 1503
    const slice = 0.2
    const { left } = through(sine(hz, 4, 0.4), [{ ...newEffect('stutter', { by: 2, hold: 1, sync: 0, slice, speed, point: 1, fade: 0.002 }, 's') }], 3)
    let at = slice
    for (let k = 1; k <= last; k++) {
      const power = Math.abs(speed) ** k
      const length = slice / Math.max(1, power)
      const from = Math.round((at + 0.15 * length) * RATE), to = Math.round((at + 0.85 * length) * RATE)
      const expected = hz * power
      // frequency by phase from the first third to the last
      const part = Math.floor((to - from) / 2)
      const phase = (f: number): number => toneAt(left.subarray(f, f + part).map((v, i) => v * (0.5 - 0.5 * Math.cos(2 * Math.PI * i / part))), expected).phase
      let turn = (phase(from + part) - phase(from)) / (2 * Math.PI) + expected * part / RATE
      turn -= expected * part / RATE
      turn -= expected * part / RATE - Math.floor(expected * part / RATE)
      void turn
      const a = phase(from) - 2 * Math.PI * expected * from / RATE * 0
      const b = phase(from + part) - 2 * Math.PI * expected * from / RATE * 0
      let d = (b - a) / (2 * Math.PI) - expected * part / RATE
      d -= Math.round(d)
      expect(Math.abs(d * RATE / part / expected), `pass ${k}`).toBeLessThan(0.001)
      at += length
    }
  })
  it('zero slice switches repeating off while speed acts', () => {
    const { left } = through(sine(1000, 3, 0.4), [newEffect('stutter', { by: 2, hold: 1, sync: 0, slice: 0, speed: 0.5 }, 's')], 2)
    expect(Math.abs(drift(left, 500, RATE / 2, 1))).toBeLessThan(0.5)
  })
  it('entering and leaving adds no step', () => {
    const x = sine(311, 4, 0.4)
    for (const o of [{ speed: 1 }, { speed: 0.5 }, { speed: -1 }, { speed: 2 }, { take: 1 }] as Record<string, number>[]) {
      const { left } = through(x, [{ ...newEffect('stutter', { stepLength: 0.5, sync: 0, slice: 0.071, ...o }, 's'), lanes: row([0, 1, 0, 1, 1, 0]) }], 3)
      let most = 0
      for (let i = 2; i < left.length; i++) most = Math.max(most, Math.abs(left[i]! - 2 * left[i - 1]! + left[i - 2]!))
      const own = 0.4 * (2 * Math.PI * 311 * Math.max(1, Math.abs(o.speed ?? 1)) / RATE) ** 2
      expect(most, JSON.stringify(o)).toBeLessThan(own + 0.001)
    }
  })
  it.each([4, -4, 2.7])('aliases stay below −60 dB at %d times the speed', (speed) => {
    const { left } = through(sine(9011, 3, 0.5), [newEffect('stutter', { by: 2, hold: 1, sync: 0, slice: 0.5, speed, fade: 0.02 }, 's')], 3)
    const n = 4096
    // four times 9 kHz lies beyond what there is: nothing of it may fold
    const s = spectrumDb(left.subarray(Math.round(0.53 * RATE), Math.round(0.53 * RATE) + n))
    let most = -300
    for (let k = 8; k < n / 2; k++) if (Math.abs(k * RATE / n - 9011 * Math.abs(speed)) > 200) most = Math.max(most, s[k]!)
    expect(most).toBeLessThan(-60 - 6)
  })
})

describe('Varispeed', () => {
  it('stops: pitch falls to nothing along its curve, without a click at either end', () => {
    const made = projectOf(sine(441, 6, 0.4), [newEffect('varispeed', { stopTime: 0.7, startTime: 0.3, curve: 0 }, 'v')])
    const { left } = play(made, 4, {
      [Math.round(1 * RATE / BLOCK)]: (e) => e.update(edited(made.project, setParam('v', 'stop', 1))),
      [Math.round(2.5 * RATE / BLOCK)]: (e) => e.update(edited(made.project, setParam('v', 'stop', 0))),
    })
    let most = 0
    for (let i = 4800; i < left.length; i++) most = Math.max(most, Math.abs(left[i]! - 2 * left[i - 1]! + left[i - 2]!))
    expect(most).toBeLessThan(0.4 * (2 * Math.PI * 441 / RATE) ** 2 + 0.001)
    expect(peak(left.subarray(Math.round(1.8 * RATE), Math.round(2.45 * RATE)))).toBeLessThan(0.002)
    expect(peak(left.subarray(Math.round(3.2 * RATE)))).toBeGreaterThan(0.38)
    // half way down, half the pitch
    const crossings = (from: number, to: number): number => {
      let n = 0
      for (let i = Math.round(from * RATE); i < to * RATE; i++) if (left[i]! >= 0 !== left[i - 1]! >= 0) n++
      return n / (2 * (to - from))
    }
    expect(Math.abs(crossings(1.3, 1.4) / 441 - 0.5)).toBeLessThan(0.06)
  })
})

describe('Taps', () => {
  it('stand where their law says', () => {
    const x = new Float32Array(2 * RATE)
    x[100] = 0.5
    for (const [law, bend] of [[0, 0], [1, 0.7], [2, 0.7]] as const) {
      const { left } = through(x, [{ ...newEffect('taps', { sync: 0, time: 1, law, bend }, 'a'), lanes: { taps: Array.from({ length: 5 }, () => ({ level: 0 })) } }], 1.5)
      const times = [...left.keys()].filter((i) => left[i]! > 0.2).map((i) => (i - 100) / RATE)
      const expected = [1, 2, 3, 4, 5].map((k) => (law === 0 ? k / 5 : law === 1 ? 1 - (1 - k / 5) ** 2.4 : (k / 5) ** 2.4))
      expected.forEach((t) => expect(times.some((s) => Math.abs(s - t) < 0.0002), `${law}: ${t} of ${times}`).toBe(true))
    }
  })
  it('a cloud with feedback of 95 % stays bounded', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 20
    const preset = newEffect('taps', { sync: 0, time: 0.9, feedback: 0.95 }, 'a')
    const lanes = { taps: Array.from({ length: 24 }, (_, k) => ({ level: 6, filter: 2, cutoff: 300 + 211 * k, resonance: 0.9, comb: 0.9, note: 40 + k, pan: k % 2 ? 1 : -1 })) }
    let most = 0
    play(projectOf(noise(4, 3, 0.5), [{ ...preset, lanes }]), seconds, {}, (e) => { most = Math.max(most, peak(e.mix.left)) })
    expect(most).toBeLessThan(60)
    expect(Number.isFinite(most)).toBe(true)
  })
})

describe('Reverb', () => {
  it('frozen, holds its octaves within half a decibel', () => {
    const x = new Float32Array(25 * RATE)
    x.set(noise(1, 4, 0.5))
    const made = projectOf(x, [newEffect('reverb', { decay: 3, motion: 0.5 }, 'r')])
    const { left } = play(made, 24, { [Math.round(1.1 * RATE / BLOCK)]: (e) => e.update(edited(made.project, setParam('r', 'freeze', 1))) })
    const octaves = (at: number): number[] => {
      const n = 262_144
      const s = spectrumDb(left.subarray(at * RATE, at * RATE + n))
      return [125, 250, 500, 1000, 2000, 4000, 8000].map((hz) => {
        let sum = 0
        for (let k = Math.round(hz / 1.41 * n / RATE); k < hz * 1.41 * n / RATE; k++) sum += 10 ** (s[k]! / 10)
        return 10 * Math.log10(sum)
      })
    }
    const early = octaves(2), late = octaves(18)
    early.forEach((v, i) => { expect(Math.abs(v - late[i]!), `octave ${i}`).toBeLessThan(0.5) })
  })
  it('has characters that differ in early pattern and colour', () => {
    const x = new Float32Array(3 * RATE)
    x[100] = 1
    const makes = [0, 1, 2, 3].map((character) => through(x, [newEffect('reverb', { character, early: 0.5, predelay: 0, decay: 2 }, 'r')], 2).left)
    const first = makes.map((y) => y.findIndex((v, i) => i > 100 && Math.abs(v) > 0.02 * peak(y)) - 100)
    expect(new Set(first.map((f) => Math.round(f / 24))).size).toBeGreaterThanOrEqual(3)
    const centre = makes.map((y) => {
      const s = spectrumDb(y.subarray(4800, 4800 + 32_768))
      let sum = 0
      let weight = 0
      s.forEach((v, k) => {
        const e = 10 ** (v / 10)
        sum += e * k
        weight += e
      })
      return sum / weight
    })
    expect(Math.max(...centre) / Math.min(...centre)).toBeGreaterThan(1.5)
  })
})

describe('Grains', () => {
  it('play the same again, are bounded, and keep to their scale', () => {
    const nodes = (): ChainNode[] => [newEffect('grains', { pitchScatter: 12, scale: 2, overlap: 8, size: 0.2 }, 'g')]
    const x = sine(220, 3, 0.3)
    const a = through(x, nodes(), 3).left, b = through(x, nodes(), 3).left
    expect(a).toEqual(b)
    const s = spectrumDb(a.subarray(RATE, RATE + 65_536))
    const at = (hz: number): number => line(s, hz, 65_536, 20)
    // an octave down, as it is, an octave up, and nothing between
    for (const hz of [110, 220, 440]) expect(at(hz)).toBeGreaterThan(at(165) + 12)
  })
})

describe('what a buffer holds', () => {
  it.each(['varispeed', 'stutter', 'grains', 'delay'])('%s gives it back as it went in, and nothing where there is no buffer', (type) => {
    const x = noise(2, 9, 0.4)
    const { engine } = play(projectOf(x, [newEffect(type, {}, 'e'), newEffect('gain', {}, 'g')]), 1.5)
    const held = engine.held('e')!
    expect(held[0].length).toBeGreaterThan(0.9 * RATE)
    // the newest sample is the last of the block that was played last
    const end = Math.ceil(1.5 * RATE / BLOCK) * BLOCK
    if (type !== 'delay') for (let i = 1; i <= 20_000; i++) if (held[0][held[0].length - i] !== x[end - i]) throw new Error(`differs ${i} before the end`)
    expect(engine.held('g')).toBeNull()
  })
})

describe('what rings, and what is stale', () => {
  const ringing = (): ChainNode[] => [newEffect('delay', { time: 0.4, feedback: 0.9, wet: 0.5 }, 'd'), newEffect('taps', { sync: 0, time: 2, feedback: 0.5, wet: 0.5 }, 't1'), newEffect('reverb', { decay: 6, wet: 0.4 }, 'r'), newEffect('grains', {}, 'g')]
  it('another project that is loaded while long buffers ring sounds as in a new engine', () => {
    const first = projectOf(noise(4, 3, 0.3), ringing())
    const second = projectOf(sine(311, 4, 0.2), ringing())
    const engine = new Engine({ sampleRate: RATE, audio: first.audio, looping: true })
    const fresh = new Engine({ sampleRate: RATE, audio: first.audio, looping: true })
    const l = new Float32Array(BLOCK), r = new Float32Array(BLOCK)
    engine.load(first.project)
    engine.play(0)
    for (let b = 0; b < 400; b++) engine.process(l, r)
    engine.load(second.project)
    engine.play(0, false)
    fresh.load(second.project)
    fresh.play(0, false)
    for (let b = 0; b < 400; b++) {
      engine.process(l, r)
      const before = l.slice()
      fresh.process(l, r)
      for (let i = 0; i < BLOCK; i++) if (l[i] !== before[i]) throw new Error(`block ${b}, frame ${i}: ${before[i]} instead of ${l[i]}`)
    }
  })
  it('where the song jumps back, echoes of before go on', () => {
    const x = new Float32Array(4 * RATE)
    x.fill(0.8, Math.round(0.6 * RATE), Math.round(0.6 * RATE) + 40)
    const made = projectOf(x, [newEffect('delay', { time: 0.7, feedback: 0, wet: 1 }, 'd')])
    // two beats of half a second each: the echo at 1.3 s comes 0.3 s after the jump
    const { left } = play({ ...made, project: { ...made.project, loop: { on: true, start: 0, end: 2 } } }, 1.6, {}, undefined, true)
    expect(peak(left.subarray(Math.round(1.29 * RATE), Math.round(1.32 * RATE)))).toBeGreaterThan(0.2)
  })
  it('a changed tempo moves synced times without a step', () => {
    const made = projectOf(sine(311, 4, 0.3), [newEffect('delay', { sync: 1, length: 0.5, feedback: 0.4, wet: 0.5 }, 'd'), { ...newEffect('taps', { length: 1, wet: 0.4 }, 't1') }])
    const { left } = play(made, 3, { [Math.round(1.5 * RATE / BLOCK)]: (e) => e.update({ ...made.project, tempo: 131 }) })
    let most = 0
    for (let i = RATE; i < left.length; i++) most = Math.max(most, Math.abs(left[i]! - left[i - 1]!))
    expect(most).toBeLessThan(0.06)
  })
})

describe('silence', () => {
  const made = projectOf(noise(8, 3, 0.3), [newEffect('reverb', { decay: 8, wet: 0.5 }, 'r'), newEffect('delay', { time: 0.4, feedback: 0.9, wet: 0.5 }, 'd')])
  it('all that rings is let go of with a soft end', () => {
    const { left } = play(made, 3, {
      [Math.round(1 * RATE / BLOCK)]: (e) => e.stop(),
      [Math.round(1.5 * RATE / BLOCK)]: (e) => e.silenceAll(),
    }, undefined, true)
    expect(peak(left.subarray(Math.round(1.2 * RATE), Math.round(1.4 * RATE)))).toBeGreaterThan(0.01)
    expect(peak(left.subarray(Math.round(1.56 * RATE)))).toBeLessThan(1e-4)
    const at = Math.round(1.5 * RATE)
    const steps = (from: number, to: number): number => {
      let most = 0
      for (let i = from; i < to; i++) most = Math.max(most, Math.abs(left[i]! - left[i - 1]!))
      return most
    }
    expect(steps(at - 200, at + 2000)).toBeLessThan(1.3 * steps(at - 4000, at - 200))
  })
  it('Stop cuts what rings where that is wished, and Play starts clean', () => {
    const { left } = play(made, 2.4, {
      [Math.round(1 * RATE / BLOCK)]: (e) => e.stop(true),
      [Math.round(1.4 * RATE / BLOCK)]: (e) => e.play(0),
    }, undefined, true)
    expect(peak(left.subarray(Math.round(1.1 * RATE), Math.round(1.39 * RATE)))).toBeLessThan(1e-4)
    const again = play(made, 1, {}, undefined, true).left
    const at = Math.round(1.4 * RATE / BLOCK) * BLOCK
    for (let i = 0; i < 0.5 * RATE; i++) if (Math.abs(left[at + i]! - again[i]!) > 1e-6) throw new Error(`stale at ${i}`)
  })
})
