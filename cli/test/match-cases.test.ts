import { describe, expect, it } from 'vitest'
import { traitsOf } from '@oleaje/core/analysis/distance'
import { StereoDelayLine } from '@oleaje/core/dsp/delay-line'
import { Random } from '@oleaje/core/dsp/random'
import { apply } from '@oleaje/core/project/edit'
import { newEffect } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { soundOf } from '@oleaje/core/render/replay'
import { excerptOf, excerptPlan } from '@oleaje/core/search/excerpt'
import { MatchJudge, MatchSearch, type Moving, goTo, placeOf } from '@oleaje/core/search/match'
import { loadProject } from '../src/load'

/** Processor seconds that two cores have in so many seconds, on the machine that the design speaks of. */
const CORES = 2
const NOMINAL_NS = 17.6
const long = process.env.OLEAJE_LONG !== undefined

const five = ['filter.cutoff', 'filter.resonance', 'drive.drive', 'delay.feedback', 'reverb.wet'] as const
const twelve = [
  ...five,
  'filter.shape',
  'drive.bias',
  'drive.tone',
  'delay.wet',
  'delay.highCut',
  'reverb.decay',
  'reverb.highs',
] as const

const { project, sounds } = await guitarThroughFour()
const excerpt = excerptOf(project, 'guitar', sounds, 2.5)

/**
 * Chains of four effects on the demo's guitar, whose parameters stood elsewhere when the reference was made. The
 * time is processor time, in units of how fast this machine is now against the nominal one.
 */
describe.each([
  { name: '5 parameters in 60 s', paths: five, seconds: 60, cases: long ? 20 : 1, found: long ? 18 : 1 },
  { name: '12 parameters in 180 s', paths: twelve, seconds: 180, cases: long ? 20 : 0, found: 14 },
])('a search for $name', ({ paths, seconds, cases, found }) => {
  it.runIf(cases > 0)(`finds the sound within 1 dB in ${found} of ${cases} cases`, () => {
    const moving = paths.map((path): Moving => {
      const [owner = '', param = ''] = path.split('.')
      return { owner, path: param, steps: 0 }
    })
    let count = 0
    for (let seed = 1; seed <= cases; seed++) {
      const { first, last, evaluations, spent } = searched(moving, seed, CORES * seconds * slowness())
      if (last < 1) count++
      console.info(
        `${paths.length} parameters, case ${seed}: ${first.toFixed(1)} dB to ${last.toFixed(2)} dB, ` +
          `${evaluations} places, ${(spent / slowness()).toFixed(0)} s of processor time`,
      )
    }
    expect(count).toBeGreaterThanOrEqual(found)
  })
})

function searched(moving: Moving[], seed: number, budget: number) {
  const random = new Random(seed)
  const place = placeOf(project, moving).map((x) => {
    const y = x + (random.next() < 0.5 ? -1 : 1) * (0.12 + 0.25 * random.next())
    return y < 0 ? -y : y > 1 ? 2 - y : y
  })
  const wanted = apply(project, goTo(moving, place)).next
  const reference = traitsOf(soundOf(excerptPlan(wanted, 'guitar', excerpt), sounds), project.sampleRate)
  const judge = new MatchJudge(project, 'guitar', excerpt, reference, moving, 'aligned', sounds)
  const search = new MatchSearch(moving, placeOf(project, moving), seed)
  const first = judge.judged(placeOf(project, moving)).distance.total
  const start = process.cpuUsage()
  const spent = (): number => process.cpuUsage(start).user / 1e6
  let last = first
  while (last >= 1 && spent() < budget) {
    search.take(search.next().map((p) => judge.loss(p)))
    const [best] = search.state.best
    if (best && best.loss < 1.1) last = judge.judged(best.place).distance.total
  }
  const [best] = search.state.best
  if (best) last = judge.judged(best.place).distance.total
  return { first, last, evaluations: search.state.evaluations, spent: spent() }
}

async function guitarThroughFour() {
  const { project: demo, audio } = await loadProject('demo/assets/night-ferry.json')
  const nodes = [
    newEffect('filter', { cutoff: 1800 }, 'filter'),
    newEffect('drive', { drive: 12 }, 'drive'),
    newEffect('delay', { time: 0.21, feedback: 0.4, wet: 0.4 }, 'delay'),
    newEffect('reverb', { wet: 0.25 }, 'reverb'),
  ]
  const guitar = demo.tracks.find((t) => t.id === 'guitar')
  const ids = JSON.stringify(guitar)
  const project: Project = {
    ...demo,
    tracks: demo.tracks.map((t) =>
      t === guitar ? { ...t, modulators: [], snapshots: [], a: { nodes }, b: null, heard: 'a' } : t,
    ),
    links: demo.links.filter((l) => !ids.includes(`"${l.target.owner}"`)),
  }
  return { project, sounds: (hash: string) => audio.get(hash) ?? null }
}

/** How many times as long this machine takes as the nominal one, by a loop that is timed there. */
function slowness(): number {
  const line = new StereoDelayLine(4096, 3, 128)
  const [times, left, right] = [line.block(), line.block(), line.block()]
  const silence = new Float64Array(128)
  for (let i = 0; i < 128; i++) times[i] = 300.3 + i * 0.01
  const rounds = Array.from({ length: 9 }, () => {
    const start = process.cpuUsage()
    for (let i = 0; i < 2000; i++) {
      line.write(silence, silence, 0, 128)
      line.read(times, left, right, 0, 128)
    }
    return (process.cpuUsage(start).user * 1000) / 2000 / 128
  })
  return (rounds.sort((a, b) => a - b)[4] ?? NOMINAL_NS) / NOMINAL_NS
}
