import { Fft } from '../dsp/fft'
import { exp, log2 } from '../dsp/math'
import { Random } from '../dsp/random'
import { fromNormalized, toNormalized } from '../units/scale'
import { sourceDefinition } from '../sources/index'
import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import { kindOf } from '../project/nodes/index'
import type { Ringing } from '../project/nodes/node-kind'
import { newProject, newSource, newTrack } from '../project/new'
import { pathOf } from '../project/param-path'
import { waysOf } from '../project/routing'
import type { ChainNode, Link, Project, Track } from '../project/schema'
import { heardChain } from '../project/walk'

/**
 * Seconds that the longest way through a project rings on once the song has stopped: a source's own, then
 * each kind of node's along its chain and on through what it is sent to. Parallel paths take the longest.
 * Links count by how far they reach.
 */
export function tailOf(project: Project): number {
  const ringing = ringingIn(project)
  const along = (track: Track): number => ringing.along(heardChain(track).nodes)
  const source = ({ source: own }: Track): number => {
    const definition = own && sourceDefinition(own.type)
    return definition ? (definition.tail?.(own.params) ?? 0.05) : 0
  }
  const ways = waysOf(project)
  const from = (track: Track): number =>
    along(track) +
    Math.max(
      0,
      ...ways.flatMap((way) =>
        way.from === track.id ? project.tracks.filter((t) => t.id === way.to).map(from) : [],
      ),
    )
  // what leaves along a send from a branch has rung as long as all of its track at most
  const sent = (track: Track): number =>
    Math.max(
      0,
      ...project.sends.flatMap((send) =>
        send.from !== track.id && holds(track, send.from)
          ? project.tracks.filter((t) => t.id === send.to).map((to) => along(track) + from(to))
          : [],
      ),
    )
  return Math.max(0, ...project.tracks.map((track) => source(track) + Math.max(from(track), sent(track))))
}

const holds = (track: Track, branch: string): boolean =>
  JSON.stringify(heardChain(track)).includes(`"${branch}"`)

function ringingIn(project: Project): Ringing {
  const links = new Map<string, Link[]>()
  for (const link of project.links) {
    const known = links.get(link.target.owner) ?? []
    links.set(link.target.owner, [...known, link])
  }
  const ringing: Ringing = {
    beatsPerSecond: project.tempo / 60,
    longest: (node, specs, seconds) => {
      const values = Object.fromEntries(
        Object.entries(specs).map(([k, s]) => [k, node.params[k] ?? s.default]),
      )
      let most = seconds(values)
      // one linked value after the other goes to the end at which it rings longest
      for (const link of links.get(node.id) ?? []) {
        const name = pathOf(link.target)
        const spec = specs[name]
        const base = values[name]
        if (!spec || base === undefined) continue
        const at = toNormalized(spec, base)
        const ends =
          link.mode === 'pitch'
            ? [0, 1]
            : link.mode === 'floating'
              ? [at + link.from, at + link.to]
              : [link.from, link.to]
        for (const end of ends) {
          const moved = { ...values, [name]: fromNormalized(spec, Math.min(1, Math.max(0, end))) }
          const long = seconds(moved)
          if (long <= most) continue
          most = long
          values[name] = moved[name] as number
        }
      }
      return most
    },
    along: (nodes) => nodes.reduce((sum, node) => sum + kindOf(node).tail(node, ringing), 0),
    loop: (nodes, seconds) => loopOf(nodes, seconds, project),
  }
  return ringing
}

/** Frames of a loop's content that are examined, at least and at most. */
const FEWEST = 1 << 14
const MOST = 1 << 18

/**
 * What follows the level or bends the wave amplifies other sounds more than an impulse at 0.25: these are
 * tried as well. Samples and peak; a single sample is an impulse.
 */
const PROBES: readonly (readonly [length: number, peak: number])[] = [
  [1, 0.001],
  [53, 0.1],
  [331, 0.1],
  [1553, 0.1],
  [12_001, 0.001],
]

/**
 * How long a loop rings on by a list of nodes and a way round. A loop whose gain stays below 1 where its
 * response grows by e^αt has no pole that falls more slowly than e^−αt (by the argument principle); the
 * largest such α is looked for.
 * @param seconds how long the nodes themselves ring
 */
function loopOf(
  nodes: readonly ChainNode[],
  seconds: number,
  project: Project,
): (feedback: number, round: number) => number {
  const { sampleRate } = project
  const whole = Math.min(MOST, Math.max(FEWEST, 1 << Math.ceil(log2(Math.min(seconds, 5) * sampleRate + 1))))
  const { left, right } =
    nodes.length > 0
      ? played(impulse(whole, 0.25), nodes, project)
      : { left: impulse(FEWEST, 1), right: null }
  const frames = left.length
  const scale = nodes.length > 0 ? 4 : 1
  const fft = new Fft(frames)
  const re = new Float64Array(frames)
  const im = new Float64Array(frames)
  /** The most that any frequency is amplified by the response times e^αt. */
  const gain = (alpha: number): number => {
    for (let i = 0; i < frames; i++) {
      const w = scale * exp((alpha * i) / sampleRate)
      re[i] = w * left[i]!
      // both sides at once: the transform of either is at most the whole
      im[i] = right ? w * right[i]! : 0
    }
    fft.forward(re, im)
    let most = 0
    for (let k = 0; k < frames; k++) most = Math.max(most, re[k]! ** 2 + im[k]! ** 2)
    return Math.sqrt(right ? most / 2 : most)
  }
  const still = gain(0)
  // what any other sound is amplified more
  const more =
    nodes.length > 0 && still > 0
      ? Math.max(1, ...PROBES.map((probe) => gainFor(...probe, nodes, project) / still))
      : 1
  return (feedback, round) => {
    const left = Math.abs(feedback) * more
    if (left * still >= 0.999) return Infinity
    if (left * still < 1e-6) return round
    // by 120 dB in one way round at the fastest
    let [slow, fast] = [0, LN_120_DB / round]
    for (let k = 0; k < 12; k++) {
      const alpha = (slow + fast) / 2
      if (left * gain(alpha) * exp(alpha * round) < 1) slow = alpha
      else fast = alpha
    }
    return round + LN_120_DB / slow
  }
}
const LN_120_DB = 6 * Math.LN10

function impulse(frames: number, peak: number): Float32Array {
  const sound = new Float32Array(frames)
  sound[0] = peak
  return sound
}

/**
 * The most by which a list of nodes amplifies a short sound: the energy of a burst, or any frequency of an
 * impulse.
 */
function gainFor(length: number, peak: number, nodes: readonly ChainNode[], project: Project): number {
  const sound = impulse(FEWEST, peak)
  // random signs, so that each part has the same energy; the same each time
  const random = new Random(length)
  for (let i = 1; i < length; i++) sound[i] = random.next() < 0.5 ? peak : -peak
  const { left, right } = played(sound, nodes, project)
  if (length > 1) {
    // a long one also by its second half, when what follows the level has done so
    const energy = (from: number, to: number): number => {
      let sum = 0
      for (let i = from; i < to; i++) sum += left[i]! ** 2 + right[i]! ** 2
      return sum
    }
    const went = 2 * length * peak * peak
    return Math.sqrt(Math.max(energy(0, FEWEST), 2 * energy(length >> 1, length)) / went)
  }
  const re = Float64Array.from(left, (x) => x / peak)
  const im = Float64Array.from(right, (x) => x / peak)
  new Fft(FEWEST).forward(re, im)
  return Math.sqrt(re.reduce((most, x, k) => Math.max(most, x * x + im[k]! * im[k]!), 0) / 2)
}

/** Output of a list of nodes with their settings. */
function played(
  sound: Float32Array,
  nodes: readonly ChainNode[],
  { sampleRate, tempo }: Project,
): Readonly<Record<'left' | 'right', Float32Array>> {
  const track = {
    ...newTrack('measured', newSource('loop', {}, 'sound'), 'measured'),
    a: { nodes: [...nodes] },
  }
  const project = newProject('measured')
  const engine = new Engine({
    sampleRate,
    audio: () => ({ sampleRate, channels: [sound, sound] }),
    looping: false,
  })
  engine.load({
    ...project,
    sampleRate,
    tempo,
    loop: { on: false, start: 0, end: 64 },
    tracks: [track, ...project.tracks],
    audio: { sound: { name: 'sound', frames: sound.length, channels: 2, sampleRate } },
  })
  engine.play(0)
  const out = { left: new Float32Array(sound.length), right: new Float32Array(sound.length) }
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  for (let at = 0; at < sound.length; at += BLOCK) {
    engine.process(left, right)
    out.left.set(engine.mix.left, at)
    out.right.set(engine.mix.right, at)
  }
  return out
}
