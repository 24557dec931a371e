import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { effects } from '@oleaje/core/effects/index'
import { apply } from '@oleaje/core/project/edit'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { isSetUpAs, setParam, takePreset } from '@oleaje/core/project/value-edits'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { RATE, db, effectRig, peak, rms } from './rig'

/** Something like music: plucked notes with a fall, at a usual level. */
function phrase(seconds: number): Float32Array {
  const notes = [110, 146.83, 220, 174.61, 293.66, 130.81]
  return Float32Array.from({ length: seconds * RATE }, (_, i) => {
    const t = i / RATE
    const hz = notes[Math.floor(t * 4) % notes.length]!
    const at = ((t * 4) % 1) / 4
    let y = 0
    for (let h = 1; h < 12; h++) y += Math.sin(2 * Math.PI * hz * h * t) / h
    return 0.22 * y * Math.exp(-at * 9) * Math.min(1, at * 400)
  })
}

describe('presets of effects', () => {
  const x = phrase(1.5)
  it('every effect has at least four, with names of their own', () => {
    for (const { id } of effects) {
      const list = effects.find((e) => e.id === id)?.presets ?? []
      expect(list.length, id).toBeGreaterThanOrEqual(4)
      expect(new Set(list.map((p) => p.name)).size).toBe(list.length)
    }
  })
  it.each(effects.flatMap((e) => (e.presets ?? []).map((p) => [e.id, p.name, p] as const)))(
    '%s, %s: known values within bounds, heard, neither silent nor over',
    (id, _, p) => {
      const definition = effects.find((e) => e.id === id)!
      const specs = { ...definition.params, ...commonParams }
      for (const [k, v] of Object.entries(p.params)) {
        expect(specs, `${id}.${k}`).toHaveProperty([k])
        expect(v).toBeGreaterThanOrEqual(specs[k as keyof typeof specs].min)
        expect(v).toBeLessThanOrEqual(specs[k as keyof typeof specs].max)
      }
      for (const [lane, items] of Object.entries(p.lanes ?? {}))
        for (const item of items)
          for (const k of Object.keys(item)) expect(definition.lanes?.[lane]?.params).toHaveProperty([k])
      const r = effectRig(id, p.params as Record<string, number>, {
        lanes: p.lanes as never,
        data: p.data as never,
      })
      r.io.song.playing = true
      const { left, right } = r.run(x, x, (at) => {
        for (let i = 0; i < BLOCK; i++)
          r.io.song.beats[i] = r.io.song.run[i] = (at + i) * r.io.song.beatsPerFrame
      })
      const wet = p.params.wet ?? 1
      const latency = definition.latency?.(RATE, p.params) ?? 0
      const out = left.slice(0, x.length).map((v, i) => v * wet + (1 - wet) * (x[i - latency] ?? 0))
      const change = db(rms(out) / rms(x))
      expect(change, 'level against what went in').toBeGreaterThan(-20)
      expect(change).toBeLessThan(13)
      expect(Math.max(peak(out), peak(right)), 'peak').toBeLessThan(4)
      // something is heard of it, in one channel or the other
      const other =
        peak(out.map((v, i) => v - (x[i - latency] ?? 0))) +
        peak(right.slice(0, x.length).map((v, i) => v - (x[i - latency] ?? 0)))
      if (
        !/by hand|by Hold|for a link|^(By another track|Safe|One mast|Wide deck|Feet together|Other way round|Power cut)$/.test(
          p.name,
        )
      )
        expect(other).toBeGreaterThan(0.01)
    },
  )
  it.each(effects.map((e) => [e.id, e] as const))('%s knows which preset it is set up as', (id, e) => {
    let p = newProject('Skerries')
    const track = newTrack('t', newSource('tone', {}, null, 's'), 't')
    track.a.nodes = [newEffect(id, {}, 'e')]
    p.tracks.unshift(track)
    for (const preset of e.presets ?? []) {
      p = apply(p, takePreset('e', preset)).next
      const effect = p.tracks[0]!.a.nodes[0]!
      const found = effect.kind === 'effect' && e.presets?.filter((other) => isSetUpAs(effect, other))
      expect(found).toEqual([preset])
      p = apply(p, setParam('e', 'wet', 0.37)).next
      const changed = p.tracks[0]!.a.nodes[0]!
      expect(changed.kind === 'effect' && isSetUpAs(changed, preset)).toBe(false)
    }
  })
})
