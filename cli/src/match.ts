import { writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { apply } from '@oleaje/core/project/edit'
import type { Project, Track } from '@oleaje/core/project/schema'
import { specAt, valueAt } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { formatValue } from '@oleaje/core/units/text'
import { excerptOf } from '@oleaje/core/search/excerpt'
import {
  type MatchKind,
  type Moving,
  type Place,
  atBorder,
  goTo,
  movable,
  movingName,
  placeOf,
} from '@oleaje/core/search/match'
import { MatchSearch } from '@oleaje/core/search/match-search'
import { outOfReach } from '@oleaje/core/search/out-of-reach'
import { defineCommand } from 'citty'
import { Piscina } from 'piscina'
import { loadProject } from './load'
import { type MatchJob, type MatchTask, judgeOf, referenceTraits } from './match-job'

const options = {
  project: { type: 'positional', description: 'project.json or bundle.zip', required: true },
  track: { type: 'string', description: 'track whose chain is steered, by name or id', required: true },
  reference: { type: 'string', description: 'sound file to come near to', required: true },
  out: { type: 'string', description: 'JSON file with the results', required: true },
  seconds: { type: 'string', description: 'time of the search', default: '60' },
  evaluations: {
    type: 'string',
    description: 'sounds that are tried at most (default: no limit)',
    default: '0',
  },
  as: {
    type: 'string',
    description: 'texture, or aligned for the same performance from the start of the loop',
    default: 'texture',
  },
  excerpt: { type: 'string', description: 'seconds of sound that are compared', default: '3' },
  parameters: { type: 'string', description: 'parameters that are moved together at most', default: '12' },
  seed: { type: 'string', description: 'seed of the search', default: '1' },
  workers: { type: 'string', description: 'threads (default: one for each core)', default: '0' },
  quiet: { type: 'boolean', description: 'print nothing', default: false },
} as const

/**
 * `oleaje match PROJECT --track T --reference FILE --out RESULT.json` steers the chain of a track towards a
 * sound, and writes the nearest states with what changed. With `--evaluations` the result depends on the seed
 * alone, not on the machine.
 */
export const matchCommand = defineCommand({
  meta: { name: 'match', description: 'Steer the chain of a track towards a reference sound' },
  args: options,
  async run({ args }) {
    try {
      const kind = args.as
      if (kind !== 'texture' && kind !== 'aligned')
        throw new Error(`--as can be texture or aligned, not “${args.as}”.`)
      await match(args, kind)
    } catch (error) {
      console.error(`✗ ${error instanceof Error ? error.message : String(error)}`)
      process.exitCode = 1
    }
  },
})

type Args = Record<Exclude<keyof typeof options, 'quiet'>, string> & { quiet: boolean }

async function match(args: Args, kind: MatchKind): Promise<void> {
  const loaded = await loadProject(args.project)
  const { project, audio } = loaded
  const track = trackNamed(project, args.track)
  const get = (hash: string) => audio.get(hash) ?? null
  const excerpt = excerptOf(project, track.id, get, positive(args.excerpt, 'excerpt'))
  // read here first, so that a bad file is told before there are workers
  const reference = await referenceTraits(args.reference, project, excerpt, kind)
  const moving = movable(project, track.id)
  const threads = positive(args.workers, 'workers', 0) || availableParallelism()
  const pool = new Piscina<MatchJob, number[]>({
    // this program itself, which is a worker where it runs in a thread
    filename: fileURLToPath(import.meta.url),
    minThreads: threads,
    maxThreads: threads,
  })
  // the first failure is told; what other workers say of it while the pool ends is nobody's
  pool.on('error', () => {})
  const judged = async (places: readonly Place[]): Promise<number[]> => {
    const { project: path, reference } = args
    const task: MatchTask = { project: path, track: track.id, reference, excerpt, kind, moving }
    return (await Promise.all(places.map((place) => pool.run({ task, places: [place] })))).flat()
  }
  try {
    const began = performance.now()
    const start = placeOf(project, moving)
    const [seed, parameters] = [positive(args.seed, 'seed', 0), positive(args.parameters, 'parameters')]
    const search = new MatchSearch(moving, start, seed, parameters)
    const most = positive(args.evaluations, 'evaluations', 0) || Infinity
    const until = most < Infinity ? Infinity : began + 1000 * positive(args.seconds, 'seconds')
    const history: [number, number][] = []
    while (
      search.state.evaluations < most &&
      performance.now() < until &&
      (search.state.best[0]?.loss ?? 1) > 0
    ) {
      const losses = await judged(search.next())
      search.take(losses)
      const { evaluations, best } = search.state
      const least = best[0]?.loss ?? 0
      if (history.length === 0) history.push([0, losses[0] ?? 0])
      history.push([evaluations, least])
      if (!args.quiet && process.stderr.isTTY)
        process.stderr.write(`\r${evaluations} tried, ${least.toFixed(2)} dB away `)
    }
    const first = history[0]?.[1] ?? 0
    const judge = await judgeOf({ ...args, track: track.id, excerpt, kind, moving }, loaded)
    const found = search.state.best.map((candidate) => {
      const { next } = apply(project, goTo(moving, candidate.place))
      return {
        ...judge.judged(candidate.place).distance,
        changes: changesOf(project, next, moving),
        atBorder: atBorder(moving, candidate.place, start).map((m) => movingName(project, m)),
        project: next,
      }
    })
    const nearest = judge.judged(search.state.best[0]?.place ?? start)
    const reach = outOfReach(reference, nearest.traits)
    writeFileSync(
      args.out,
      JSON.stringify(
        {
          track: track.name,
          kind,
          seed: Number(args.seed),
          excerpt,
          start: first,
          history,
          outOfReach: reach,
          found,
        },
        null,
        1,
      ),
    )
    if (args.quiet) return
    const [best] = found
    console.log(
      `${first.toFixed(2)} dB away at first, ${best?.total.toFixed(2)} dB after ${search.state.evaluations} tries`,
    )
    for (const change of best?.changes ?? []) console.log(`  ${change.name}: ${change.from} → ${change.to}`)
    for (const sentence of reach) console.log(sentence)
  } finally {
    await pool.destroy()
  }
}

function trackNamed(project: Project, name: string): Track {
  const track = project.tracks.find((t) => t.id === name || t.name.toLowerCase() === name.toLowerCase())
  if (track) return track
  throw new Error(
    `There is no track called “${name}”. There are: ${project.tracks.map((t) => t.name).join(', ')}.`,
  )
}

/** Parameters that differ, with both values in their own units. */
function changesOf(before: Project, after: Project, moving: readonly Moving[]) {
  return moving.flatMap((m) => {
    const text = (p: Project): string => {
      const owner = findOwner(p, m.owner)
      const [spec, value] = [owner && specAt(owner, m.path), owner && valueAt(owner, m.path)]
      return spec && value !== undefined ? formatValue(spec, value) : ''
    }
    const [from, to] = [text(before), text(after)]
    return from === to ? [] : [{ owner: m.owner, path: m.path, name: movingName(before, m), from, to }]
  })
}

function positive(text: string, name: string, least = Number.MIN_VALUE): number {
  const value = Number(text)
  if (text.trim() === '' || !Number.isFinite(value) || value < least)
    throw new Error(
      `--${name} must be a number of ${least > 0 ? 'more than 0' : '0 or more'}, not “${text}”.`,
    )
  return value
}
