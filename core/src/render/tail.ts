import { Fft } from '../dsp/fft'
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

/** Frames of the impulse by which the gain of what stands in a loop is measured. */
const FRAMES = 1 << 14

/**
 * Seconds that the longest way through a project rings on once the song has stopped: a source's own, then each kind of node's along its
 * chain and on through what it is sent to. Parallel paths take the longest. Links count by how far they reach.
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
    Math.max(0, ...ways.flatMap((way) => (way.from === track.id ? project.tracks.filter((t) => t.id === way.to).map(from) : [])))
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

const holds = (track: Track, branch: string): boolean => JSON.stringify(heardChain(track)).includes(`"${branch}"`)

function ringingIn(project: Project): Ringing {
  const links = new Map<string, Link[]>()
  for (const link of project.links) {
    const known = links.get(link.target.owner) ?? []
    links.set(link.target.owner, [...known, link])
  }
  const ringing: Ringing = {
    beatsPerSecond: project.tempo / 60,
    longest: (node, specs, seconds) => {
      const values = Object.fromEntries(Object.entries(specs).map(([k, s]) => [k, node.params[k] ?? s.default]))
      let most = seconds(values)
      // one linked value after the other goes to the end at which it rings longest
      for (const link of links.get(node.id) ?? []) {
        const name = pathOf(link.target)
        const spec = specs[name]
        const base = values[name]
        if (!spec || base === undefined) continue
        const at = toNormalized(spec, base)
        const ends = link.mode === 'pitch' ? [0, 1] : link.mode === 'floating' ? [at + link.from, at + link.to] : [link.from, link.to]
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
    gain: (nodes) => (nodes.length === 0 ? 1 : gainOf(nodes, project)),
  }
  return ringing
}

/** The most that a list of nodes amplifies any frequency of an impulse, linear; as they are set. */
function gainOf(nodes: readonly ChainNode[], { sampleRate, tempo }: Project): number {
  const impulse = new Float32Array(FRAMES)
  impulse[0] = 0.25
  const track = { ...newTrack('measured', newSource('loop', {}, 'impulse'), 'measured'), a: { nodes: [...nodes] } }
  const project = newProject('measured')
  const engine = new Engine({ sampleRate, audio: () => ({ sampleRate, channels: [impulse, impulse] }), looping: false })
  engine.load({
    ...project,
    sampleRate,
    tempo,
    loop: { on: false, start: 0, end: 64 },
    tracks: [track, ...project.tracks],
    audio: { impulse: { name: 'impulse', frames: FRAMES, channels: 2, sampleRate } },
  })
  engine.play(0)
  const re = new Float64Array(FRAMES)
  const im = new Float64Array(FRAMES)
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  for (let at = 0; at < FRAMES; at += BLOCK) {
    engine.process(left, right)
    // both sides at once: the transform of either is at most the whole
    for (let i = 0; i < BLOCK; i++) {
      re[at + i] = (engine.mix.left[i] ?? 0) * 4
      im[at + i] = (engine.mix.right[i] ?? 0) * 4
    }
  }
  new Fft(FRAMES).forward(re, im)
  let most = 0
  for (let k = 0; k < FRAMES; k++) most = Math.max(most, (re[k] as number) ** 2 + (im[k] as number) ** 2)
  return Math.sqrt(most / 2)
}
