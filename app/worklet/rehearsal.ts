import { BLOCK } from '@oleaje/core/contract/block'
import type { AudioData } from '@oleaje/core/contract/audio'
import { Engine } from '@oleaje/core/engine/engine'
import { type Patch, patched } from '@oleaje/core/project/patch'
import type { Project } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'

/**
 * Blocks after which the engine's code has been compiled, and how many of them are worked out in the time of
 * one.
 */
const WARM_BLOCKS = 1200
const WARM_AT_ONCE = 12
/**
 * Edits carried out at once when a project comes in, so that the first real one while sound plays meets code
 * that is there.
 */
const WARM_EDITS = 16

const unheard = new Float32Array(BLOCK)

/**
 * A second engine that plays unheard before the first is asked to, so that the first sounding blocks meet
 * compiled code.
 */
export class Rehearsal {
  private readonly engine: Engine
  private readonly projects: readonly Project[]
  private edits = 0
  private left = WARM_BLOCKS

  constructor(project: Project, sampleRate: number, audio: (hash: string) => AudioData | null) {
    this.engine = new Engine({ sampleRate, audio })
    this.projects = rehearsedOf(project)
    this.engine.load(project)
    this.engine.play(project.loop.start)
    for (let i = 0; i < WARM_EDITS; i++) {
      this.edit()
      this.play(4)
      this.engine.finish()
      this.play(4)
    }
  }

  /** A part of it, in the time of one block; gives whether it is over. */
  goOn(): boolean {
    this.play(WARM_AT_ONCE)
    if (!this.engine.planning) this.edit()
    this.left -= WARM_AT_ONCE
    return this.left <= 0
  }

  private play(blocks: number): void {
    for (let i = 0; i < blocks; i++) this.engine.process(unheard, unheard)
  }

  private edit(): void {
    const next = this.projects[this.edits++ % this.projects.length]
    if (next) this.engine.update(next)
  }
}

/**
 * A project as it is and as it would be after edits: in each track in turn an effect twice, and a link gone.
 */
function rehearsedOf(project: Project): Project[] {
  const edits = project.tracks.flatMap((track) => {
    const { nodes } = heardChain(track)
    const at = nodes.findIndex((n) => n.kind === 'effect')
    if (at < 0) return []
    const twice: Patch = {
      op: 'insert',
      path: ['tracks', { id: track.id }, heardChain(track) === track.b ? 'b' : 'a', 'nodes'],
      value: { ...nodes[at], id: 'rehearsed' },
      after: nodes[at]?.id ?? null,
    }
    return [
      project.links.length > 0
        ? [twice, { op: 'remove', path: ['links'], id: project.links[0]?.id ?? '' } satisfies Patch]
        : [twice],
    ]
  })
  return edits.flatMap((patches) => [patched(project, patches), project])
}
