import { addTrack } from '@oleaje/core/project/chain-edits'
import { type Edit, together } from '@oleaje/core/project/edit'
import { newId, newSource, newTrack } from '@oleaje/core/project/new'
import { dropUnusedSounds } from '@oleaje/core/project/target-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { chainInWords } from '@oleaje/core/project/chain-words'
import type { Print, Project } from '@oleaje/core/project/schema'
import { homeOf } from '@oleaje/core/project/routing'
import { ownerName } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

/** Use of a print: beside the printed track, which is muted, or in place of it. */
export interface PrintWish {
  /** A track, a bus or a branch; none for the mix. */
  readonly track: string | null
  /**
   * The tail is folded into the beginning, so that the loop repeats as it does live, or kept after it.
   */
  readonly tail: 'folded' | 'kept'
  /** The new track plays in place of what was printed, which is muted; or is muted itself. */
  readonly inPlace: boolean
}

/** Prints: a track or the mix over the loop, rendered to a new sound on a new track. */
export class Printing {
  private jobs = 0

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
  ) {}

  /** Prints, and gives whether it was done. What can go wrong is said. */
  async print(wish: PrintWish, onProgress: (done: number) => void = () => {}): Promise<boolean> {
    const { project } = this.doc
    if (!project) return false
    try {
      await this.sounds.there
      const channels = await this.heavy.call.print(
        ++this.jobs,
        project,
        this.sounds.ofProject(),
        wish.track,
        wish.tail,
        onProgress,
      )
      if (!channels || this.doc.project?.id !== project.id) return false
      const from = nameOf(project, wish.track)
      const name = `${from}, printed`.slice(0, 60)
      const { sound, ref } = await this.sounds.takeSamples(name, channels)
      const id = newId()
      const print: Print = {
        of: wish.track,
        chain: chainInWords(project, wish.track),
        tail: wish.tail,
        inPlace: wish.inPlace,
      }
      const source = newSource('loop', { tempo: project.tempo }, sound.hash)
      const track = {
        ...newTrack(name, source, id),
        print,
        params: { level: 0, pan: 0, mute: wish.inPlace ? 0 : 1 },
      }
      this.doc.edit(
        `Print ${from}`,
        together(
          (p) => {
            p.audio[sound.hash] = ref
          },
          addTrack(track),
          ...muted(project, wish),
        ),
      )
      this.stores.selection.selectTrack(id)
      return true
    } catch (error) {
      this.doc.trouble = sentence(error)
      return false
    }
  }

  /** Prints once more what a print was made of, as it is now, in its place. */
  async again(trackId: string): Promise<boolean> {
    const { project } = this.doc
    const track = project?.tracks.find((t) => t.id === trackId)
    if (!project || !track?.print || !track.source) return false
    const { of } = track.print
    if (of !== null && !homeOf(project, of)) {
      this.doc.trouble = 'The track that this was printed from no longer exists.'
      return false
    }
    try {
      await this.sounds.there
      // what was muted when it was printed is heard for the print, and the print is not
      const heard: Project = {
        ...project,
        tracks: project.tracks.map((t) =>
          t.id === trackId
            ? { ...t, params: { ...t.params, mute: 1 } }
            : (
                  of === null
                    ? t.kind === 'track' && track.print?.inPlace && !t.print
                    : t.id === homeOf(project, of)?.id
                )
              ? { ...t, params: { ...t.params, mute: 0 } }
              : t,
        ),
      }
      const channels = await this.heavy.call.print(
        ++this.jobs,
        heard,
        this.sounds.ofProject(),
        of,
        track.print.tail,
        () => {},
      )
      if (!channels || this.doc.project?.id !== project.id) return false
      const { sound, ref } = await this.sounds.takeSamples(track.name, channels)
      const chain = chainInWords(project, of)
      this.doc.edit(`Print ${track.name} again`, (p) => {
        const t = p.tracks.find((x) => x.id === trackId)
        if (!t?.source || !t.print) return
        p.audio[sound.hash] = ref
        t.source.audio = sound.hash
        t.source.params.tempo = p.tempo
        t.print.chain = chain
        dropUnusedSounds(p)
      })
      return true
    } catch (error) {
      this.doc.trouble = sentence(error)
      return false
    }
  }
}

/** Tracks that are muted when a print replaces them: the printed one, or all tracks of the mix. */
function muted(project: Project, { track, inPlace }: PrintWish): Edit[] {
  if (!inPlace) return []
  const of =
    track === null
      ? project.tracks.filter((t) => t.kind === 'track')
      : project.tracks.filter((t) => t.id === track)
  // a branch is muted itself
  return (of.length ? of.map((t) => t.id) : track === null ? [] : [track]).map((id) =>
    setParam(id, 'mute', 1),
  )
}

/** Name of the printed track, branch or mix. */
function nameOf(project: Project, of: string | null): string {
  const found = of === null ? undefined : findOwner(project, of)
  return found ? ownerName(found) : 'the mix'
}
