import { it } from 'vitest'
import { effectRig, sine, RATE } from './rig'
it('pitch', () => {
  for (const [q, f, st] of [[1, 82.4, 12], [1, 82.4, -12], [1, 311, 7], [1, 1046.5, 12], [1, 1046.5, -12], [1, 440, 0.37],[0, 82.4, 12], [0, 311, -7]] as const) {
    const t0 = performance.now()
    const out = effectRig('pitch', { quality: q, pitch: st }).run(sine(f, 3, 0.5)).left
    const ms = performance.now() - t0
    const g = f * 2 ** (st / 12)
    const ph = (from: number) => { let re = 0, im = 0; const n = 9600; for (let i = 0; i < n; i++) { const w = 0.5 - 0.5 * Math.cos(2 * Math.PI * i / n); re += w * out[from + i]! * Math.cos(2 * Math.PI * g * (from + i) / RATE); im -= w * out[from + i]! * Math.sin(2 * Math.PI * g * (from + i) / RATE) } return [Math.atan2(im, re) / 2 / Math.PI, 4 * Math.hypot(re, im) / n] as const }
    let turns = 0, last = ph(24000)[0]
    for (let k = 1; k <= 40; k++) { const p = ph(24000 + k * 1200)[0]; turns += p - last - Math.round(p - last); last = p }
    console.log(q, f, st, 'cents', (1200 * Math.log2(1 + turns / g)).toFixed(3), 'level', ph(48000)[1].toFixed(3), ph(60000)[1].toFixed(3), 'ns/frame', (ms * 1e6 / out.length).toFixed(0))
  }
})
