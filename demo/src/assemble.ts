import { type Edit, apply } from '@oleaje/core/project/edit'
import { addLink } from '@oleaje/core/project/motion-edits'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { targetAt } from '@oleaje/core/project/param-path'
import type { ChainNode, Project, Track } from '@oleaje/core/project/schema'
import { soundsOf } from '@oleaje/core/sources/index'
import { findTarget } from '@oleaje/core/project/targets'
import { toNormalized } from '@oleaje/core/units/scale'

/** One sound of the demo as a project lists it. */
export interface DemoSound {
  readonly file: string
  readonly title: string
  readonly hash: string
  /** The name it had in older projects. */
  readonly formerly?: string
  readonly frames: number
  readonly channels: number
}

/**
 * A track that plays one of the demo's sounds. Ids are fixed words, so that the file is the same each time it
 * is made.
 */
export function loopTrack(
  sounds: readonly DemoSound[],
  id: string,
  name: string,
  file: string,
  level: number,
  nodes: ChainNode[],
): Track {
  const sound = sounds.find((s) => s.file === file)
  if (!sound) throw new RangeError(`The demo has no sound “${file}”.`)
  const track = newTrack(name, newSource('loop', { tempo: 96 }, sound.hash, `${id}-source`), id)
  track.params.level = level
  track.a.nodes = nodes
  return track
}

/** A link over a range in the target's own unit. Its id says where it goes. */
export const linkValue =
  (
    source: string,
    owner: string,
    path: string,
    low: number,
    high: number,
    mode: 'floating' | 'fixed' = 'floating',
  ): Edit =>
  (p) => {
    const found = findTarget(p, targetAt(owner, path))
    if (!found) throw new RangeError(`The demo links to nothing: ${owner}.${path}`)
    const plain = `to-${owner}-${path.replace(/\W+/g, '-')}`
    const id = p.links.some((l) => l.id === plain) ? `${plain}-by-${source}` : plain
    addLink(source, targetAt(owner, path), toNormalized(found.spec, low), toNormalized(found.spec, high), {
      id,
      mode,
    })(p)
  }

/** A demo project of four bars at 96 bpm: tracks, the chain of the mix, and edits on top. */
export function assemble(o: {
  id: string
  name: string
  sounds: readonly DemoSound[]
  tracks: Track[]
  mix: ChainNode[]
  edits: readonly Edit[]
}): Project {
  const used = new Set(o.tracks.flatMap((t) => (t.source ? soundsOf(t.source) : [])))
  const project: Project = {
    ...newProject(o.name),
    id: o.id,
    tempo: 96,
    loop: { on: true, start: 0, end: 16 },
    audio: Object.fromEntries(
      o.sounds
        .filter((s) => used.has(s.hash))
        .map((s) => [s.hash, { name: s.title, frames: s.frames, channels: s.channels, sampleRate: 48_000 }]),
    ),
  }
  const mix = project.tracks[0] as Track
  mix.id = 'mix'
  mix.a.nodes = o.mix
  project.tracks = [...o.tracks, mix]
  let links = 0
  return o.edits.reduce((p, edit) => {
    const next = apply(p, edit).next
    // links made without a name get one that is the same each time
    return {
      ...next,
      links: next.links.map((l) =>
        /^[A-Za-z0-9_-]{10}$/.test(l.id) && !l.id.startsWith('to-') ? { ...l, id: `link-${++links}` } : l,
      ),
    }
  }, project)
}
