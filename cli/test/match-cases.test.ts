import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { traitsOf } from '@oleaje/core/analysis/distance'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { apply } from '@oleaje/core/project/edit'
import { type Preset, takePresetInto } from '@oleaje/core/project/preset'
import { soundOf } from '@oleaje/core/render/replay'
import { excerptOf, excerptPlan } from '@oleaje/core/search/excerpt'
import { MatchJudge, movable, placeOf } from '@oleaje/core/search/match'
import { demoWith, displaced, fourEffects, rangesOf, referenceAt, searched, slowness } from './search-rig'

/** Processor seconds that two cores have in a second. */
const CORES = 2
const long = process.env.OLEAJE_LONG !== undefined
const all = Array.from({ length: 20 }, (_, i) => i + 1)
const five = ['filter.cutoff', 'filter.resonance', 'drive.drive', 'delay.feedback', 'reverb.wet']
const twelve = [
  ...five,
  'filter.shape',
  'drive.bias',
  'drive.tone',
  'delay.wet',
  'delay.highCut',
  'reverb.decay',
  'reverb.highs',
]

/** The time is processor time, in units of how fast this machine is now against the nominal one. */
describe.each([
  { name: '5 parameters in 60 s', paths: five, seconds: 60, seeds: long ? all : [13], found: long ? 18 : 1 },
  { name: '12 parameters in 180 s', paths: twelve, seconds: 180, seeds: long ? all : [], found: 14 },
])('a search for $name', ({ paths, seconds, seeds, found }) => {
  it.runIf(seeds.length > 0)(
    `finds a sound within 1 dB in ${found} of ${seeds.length} cases`,
    async () => {
      const { project, sounds, excerpt } = await fourEffects()
      const moving = rangesOf(paths)
      const lines: string[] = []
      let count = 0
      for (const seed of seeds) {
        const slow = slowness()
        const reference = referenceAt({ project, sounds, excerpt }, moving, displaced(project, moving, seed))
        const judge = new MatchJudge(project, 'guitar', excerpt, reference, moving, 'aligned', sounds)
        const to = { seed, near: 1, budget: CORES * seconds * slow }
        const { first, last, evaluations, spent } = searched(judge, placeOf(project, moving), moving, to)
        if (last < 1) count++
        lines.push(
          `case ${seed}: ${first.toFixed(1)} to ${last.toFixed(2)} dB, ${evaluations} places, ${(spent / slow).toFixed(0)} s`,
        )
      }
      if (long) console.info(lines.join('\n'))
      expect(count, lines.join('\n')).toBeGreaterThanOrEqual(found)
    },
    long ? 12 * 3600_000 : 300_000,
  )
})

/** Chains of the library, the sound that each is on, and what another program made of that sound. */
const foreign = [
  { chain: 'Warm planks', track: 'kit', kind: 'aligned', made: ['overdrive', '14', '10'] },
  {
    chain: 'A worn tape',
    track: 'guitar',
    kind: 'aligned',
    made: ['chorus', '0.7', '0.9', '55', '0.4', '0.25', '2', '-t'],
  },
  {
    chain: 'Dotted echo in the dark',
    track: 'guitar',
    kind: 'aligned',
    made: ['echos', '0.8', '0.7', '311', '0.4', '622', '0.25'],
  },
  { chain: 'Hold of the ship', track: 'kit', kind: 'texture', made: ['reverb', '60', '50', '80'] },
  {
    chain: 'Slow phaser pair',
    track: 'keys',
    kind: 'texture',
    made: ['phaser', '0.8', '0.74', '3', '0.4', '0.5', '-t'],
  },
] as const
const folder = mkdtempSync(join(tmpdir(), 'oleaje-foreign-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const hasSox = (() => {
  try {
    execFileSync('sox', ['--version'], { stdio: 'ignore' })
    return true
  } catch {
    return false
  }
})()

describe.runIf(long && hasSox)('a search towards sounds that another program made', () => {
  it.each(foreign)('$chain comes nearer by 30 % at least', async ({ chain, track, kind, made }) => {
    const library = JSON.parse(readFileSync('demo/assets/library.json', 'utf8')) as { preset: Preset }[]
    const preset = library.find((l) => l.preset.name === chain)?.preset
    const { project: dry, sounds } = await demoWith(track, [])
    const project = apply(dry, takePresetInto(track, preset!, { chainOf: track })).next
    const excerpt = excerptOf(project, track, sounds, 2.5)
    const channels = soundOf(excerptPlan(dry, track, excerpt), sounds)
    const [file, out] = [join(folder, 'dry.wav'), join(folder, 'made.wav')]
    writeFileSync(file, writeWav({ sampleRate: project.sampleRate, channels: [...channels] }, 32))
    execFileSync('sox', ['-G', file, out, ...made])
    const [left, right = left] = readWav(readFileSync(out)).channels.map((c) =>
      c.slice(0, channels[0].length),
    )
    const reference = traitsOf([left!, right!], project.sampleRate)
    const all = movable(project, track)
    const judge = new MatchJudge(project, track, excerpt, reference, all, kind, sounds)
    const to = { seed: 1, near: 0, budget: CORES * 60 * slowness(), most: 12 }
    const found = searched(judge, placeOf(project, all), all, to)
    console.info(
      `${chain}: ${found.first.toFixed(2)} to ${found.last.toFixed(2)} dB, ${found.evaluations} places`,
    )
    expect(found.last).toBeLessThan(0.7 * found.first)
  })
})
