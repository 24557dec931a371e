import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { chainInWords } from '@oleaje/core/project/chain-words'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { printLoop } from '@oleaje/core/render/print'
import { planRender, render } from '@oleaje/core/render/render'
import { play, projectOf } from './project-rig'
import { RATE, db, noise, peak } from './rig'

function printed(
  p: ReturnType<typeof projectOf>,
  of: string | null,
  tail: 'folded' | 'kept',
): readonly [Float32Array, Float32Array] {
  const work = printLoop(p.project, of, tail, p.audio)
  for (;;) {
    const piece = work.next()
    if (piece.done) return piece.value
  }
}
/** A loop of 0.37 s at 107 bpm through a chain. */
function looped(nodes: ChainNode[]): ReturnType<typeof projectOf> {
  const p = projectOf(noise(0.37, 3, 0.3), nodes)
  return { ...p, project: { ...p.project, tempo: 107, loop: { on: true, start: 0, end: 3 } } }
}
const frames = Math.round(((3 * 60) / 107) * RATE)
const minus = (a: Float32Array, b: Float32Array): Float32Array =>
  a.subarray(0, Math.min(a.length, b.length)).map((v, i) => v - b[i]!)

describe('a print', () => {
  it('kept is the render, sample by sample; folded is as long as the loop', () => {
    const p = looped([newEffect('delay', { time: 0.19, feedback: 0.3 }), newEffect('drive', { quality: 2 })])
    const plan = planRender(p.project, { tail: 'auto' })
    const whole = new Float32Array(plan.frames)
    let at = 0
    for (const { channels, done } of render(plan, p.audio)) {
      whole.set(channels[0].subarray(0, done - at), at)
      at = done
    }
    expect(db(peak(minus(printed(p, null, 'kept')[0], whole)))).toBeLessThan(-140)
    const [left] = printed(p, null, 'folded')
    expect(left.length).toBe(frames)
    expect(peak(minus(left, whole))).toBeGreaterThan(0.001)
  })
  it('folded, it is what is heard once the loop has gone round', () => {
    const p = looped([newEffect('delay', { sync: 0, time: 0.19, feedback: 0.4, wet: 0.5, cross: 0 })])
    // a loop of the source that begins anew with the song’s, as its sound is as long
    p.project.audio = { x: { ...p.project.audio.x!, frames } }
    const sound = Float32Array.from({ length: frames }, (_, i) =>
      [91, 277, 1403].reduce(
        (y, cycles) => y + 0.2 * Math.sin((2 * Math.PI * cycles * i) / frames + cycles),
        0,
      ),
    )
    const q = { project: p.project, audio: () => ({ sampleRate: RATE, channels: [sound] }) }
    const [left] = printed(q, null, 'folded')
    const heard = new Float32Array(3 * frames)
    play(
      q,
      (frames * 3) / RATE,
      {},
      (e, b) => {
        heard.set(e.mix.left.subarray(0, Math.min(BLOCK, heard.length - b * BLOCK)), b * BLOCK)
      },
      true,
    )
    expect(db(peak(minus(left, heard.subarray(2 * frames))))).toBeLessThan(-80)
  })
  it('folded, it begins where the loop begins, however late the chain is', () => {
    const at = (nodes: ChainNode[]): number => {
      const click = Float32Array.from({ length: frames }, (_, i) => (i === 7000 ? 0.9 : 0))
      const p = projectOf(click, nodes)
      const [left] = printed(
        { ...p, project: { ...p.project, tempo: 107, loop: { on: true, start: 0, end: 3 } } },
        null,
        'folded',
      )
      return left.reduce((best, v, i) => (Math.abs(v) > Math.abs(left[best]!) ? i : best), 0)
    }
    expect(at([])).toBe(7000)
    expect(at([newEffect('limiter', { ceiling: 0 })])).toBe(7000)
  })
  it('of a track leaves others out, of a branch its siblings; the chain is told in words', () => {
    const [low, high] = [newBranch('fog', -6, 'fog'), newBranch('spray', -9, 'spray')]
    high.nodes = [newEffect('gain', { level: -3 }, 'g')]
    const p = looped([newSplit([low, high], 'split')])
    const other = newTrack('other', newSource('loop', {}, 'x', 'o-src'), 'o')
    const with2: Project = { ...p.project, tracks: [other, ...p.project.tracks] }
    const [all] = printed({ ...p, project: with2 }, 't', 'kept')
    const [one] = printed({ ...p, project: with2 }, 'fog', 'kept')
    const [two] = printed({ ...p, project: with2 }, 'spray', 'kept')
    expect(db(peak(minus(minus(all, one), two)))).toBeLessThan(-120)
    expect(db(peak(two)) - db(peak(one))).toBeCloseTo(-6, 1)
    expect(chainInWords(with2, 't')).toBe('Split [fog: straight | spray: Gain]')
    expect(chainInWords(with2, null)).toBe('no effects')
  })
})
