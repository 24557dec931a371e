import { it } from 'vitest'
import { Splicer } from '@oleaje/core/dsp/splicer'
import { sine, RATE } from './rig'
it('split', () => {
  for (const [f, st] of [[82.4, 12], [82.4, -12], [311, 7], [311, -5], [1046.5, 12], [110, -24], [220, 24], [440, 0.37]] as const) {
    const s = new Splicer(RATE, 1900, 960)
    const x = Float64Array.from(sine(f, 3, 0.5)); const r = new Float64Array(128).fill(2 ** (st / 12))
    const out = new Float64Array(x.length)
    const b = new Float64Array(128)
    let sum = 0
    const t0 = performance.now()
    for (let at = 0; at + 128 <= x.length; at += 128) { b.set(x.subarray(at, at + 128)); s.process(b, b, r, 0, 128); out.set(s.left, at); sum += s.delay }
    const ms = performance.now() - t0
    const g = f * 2 ** (st / 12)
    // phase over 1 s
    const ph = (from: number) => { let re = 0, im = 0; const n = 9600; for (let i = 0; i < n; i++) { const w = 0.5 - 0.5 * Math.cos(2 * Math.PI * i / n); re += w * out[from + i]! * Math.cos(2 * Math.PI * g * (from + i) / RATE); im -= w * out[from + i]! * Math.sin(2 * Math.PI * g * (from + i) / RATE) } return [Math.atan2(im, re) / 2 / Math.PI, 4 * Math.hypot(re, im) / n] as const }
    let turns = 0, last = ph(24000)[0]
    for (let k = 1; k <= 40; k++) { const p = ph(24000 + k * 1200)[0]; turns += p - last - Math.round(p - last); last = p }
    console.log(f, st, 'cents', (1200 * Math.log2(1 + turns / g)).toFixed(3), 'level', ph(48000)[1].toFixed(3), 'mean delay ms', (sum / (x.length / 128) / 48).toFixed(1), 'ns/frame', (ms * 1e6 / x.length).toFixed(0))
  }
})
