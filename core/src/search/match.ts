import {
  type Distance,
  type Traits,
  distance,
  mainDistance,
  textureDistance,
  traitsOf,
} from '../analysis/distance'
import type { AudioData, Stereo } from '../contract/audio'
import { toDb } from '../dsp/math'
import { type Edit, apply } from '../project/edit'
import type { Project } from '../project/schema'
import { gaugeName, pathsOf, specAt, valueAt, writeValue } from '../project/targets'
import { type Owner, findOwner, ownerId } from '../project/walk'
import { Replay } from '../render/replay'
import { type ParamSpec, isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import { diceKindOf, diceOwners, isLocked } from '../variation/dice'
import { type Excerpt, draftOf, excerptPlan } from './excerpt'

/** A parameter that a search may move. */
export interface Moving {
  readonly owner: string
  readonly path: string
  /** Values of a choice or a switch; 0 for a range. */
  readonly steps: number
  /** A time: one value may suit a sound where those beside it do not. */
  readonly isTime?: boolean
}

/** A place in the search: 0…1 for ranges, the number of the value for choices; one for each that moves. */
export type Place = readonly number[]

/** Whether the reference is the same performance, moment by moment, or only sounds like what is wanted. */
export type MatchKind = 'aligned' | 'texture'

/** What is silent, or fails, is this many dB away. */
const SILENT_LOSS = 100
export const FAILED_LOSS = 200
/** LU by which the sound may become quieter or louder before that counts against a place. */
const LEVEL_RANGE = 18

/**
 * Parameters of a chain that may be moved towards a reference: of its effects, of its modulators, and ranges
 * of its links; nothing that is locked, and no level of the track.
 */
export function movable(project: Project, track: string): Moving[] {
  return diceOwners(project, { kind: 'chain', id: track }).flatMap((owner) =>
    pathsOf(owner).flatMap((path): Moving[] => {
      const spec = specAt(owner, path)
      const isRange = owner.kind === 'link' && (path === 'from' || path === 'to')
      if (!spec || isLocked(project, owner, path)) return []
      if (!isRange && diceKindOf(owner, path, spec) === null) return []
      const steps = isStepped(spec) ? Math.round(spec.max - spec.min) + 1 : 0
      const isTime =
        steps === 0 && owner.kind !== 'link' && (spec.unit === 'seconds' || spec.unit === 'beats')
      return [{ owner: ownerId(owner), path, steps, isTime }]
    }),
  )
}

/** Ranges that were moved and ended at one of their borders, where more might have been wanted. */
export const atBorder = (moving: readonly Moving[], place: Place, start: Place): Moving[] =>
  moving.filter((m, i) => {
    const x = place[i] ?? 0.5
    return !m.steps && x !== start[i] && (x < BORDER || x > 1 - BORDER)
  })

const BORDER = 0.005

const ownerOf = (project: Project, { owner }: Moving): Owner => {
  const found = findOwner(project, owner)
  if (!found) throw new Error(`There is nothing called “${owner}” in this project.`)
  return found
}

/** Name of a parameter with that of its owner, for a person. */
export function movingName(project: Project, { owner, path }: Moving): string {
  const found = findOwner(project, owner)
  return found ? gaugeName(project, found, path) : path
}

/** Where a project stands. @throws where it has no such parameter */
export const placeOf = (project: Project, moving: readonly Moving[]): Place =>
  moving.map((m) => standing(ownerOf(project, m), m).at)

/** Goes to a place; a parameter that stands there already keeps its value to the bit. */
export const goTo =
  (moving: readonly Moving[], place: Place): Edit =>
  (p) => {
    for (const [i, m] of moving.entries()) {
      const owner = ownerOf(p, m)
      const { spec, at } = standing(owner, m)
      const to = place[i] ?? 0
      if (to === at) continue
      writeValue(owner, m.path, m.steps ? spec.min + Math.round(to) : fromNormalized(spec, to))
    }
  }

/** What a parameter is, and where it stands. */
function standing(owner: Owner, m: Moving): { readonly spec: ParamSpec; readonly at: number } {
  const [spec, value] = [specAt(owner, m.path), valueAt(owner, m.path)]
  if (!spec || value === undefined) throw new Error(`“${m.path}” is no parameter of “${m.owner}”.`)
  return { spec, at: m.steps ? Math.round(value - spec.min) : toNormalized(spec, value) }
}

/** What places are tried on. */
interface Base {
  readonly project: Project
  readonly replay: Replay
}

/** Judges places by the sound of a track over an excerpt; one for each worker. */
export class MatchJudge {
  private readonly draft: Base
  private full: Base | null = null
  /** Loudness of the chain as it is in LUFS, by its draft; −120 where it is silent. */
  private loudness: number | null = null

  constructor(
    private readonly project: Project,
    private readonly track: string,
    private readonly excerpt: Excerpt,
    private readonly reference: Traits,
    private readonly moving: readonly Moving[],
    private readonly kind: MatchKind,
    private readonly audio: (hash: string) => AudioData | null,
  ) {
    this.draft = this.base(draftOf(project))
  }

  private base(project: Project): Base {
    return { project, replay: new Replay(excerptPlan(project, this.track, this.excerpt), this.audio) }
  }

  private soundAt(place: Place, { project, replay }: Base): Stereo {
    const { next } = apply(project, goTo(this.moving, place))
    return replay.of(excerptPlan(next, this.track, this.excerpt))
  }

  /** LU beyond the range for levels: the distance itself is taken at one loudness. */
  private beyond(loudness: number): number {
    const { project, replay } = this.draft
    this.loudness ??= traitsOf(
      replay.of(excerptPlan(project, this.track, this.excerpt)),
      project.sampleRate,
    ).loudness
    return this.loudness <= -120 ? 0 : Math.max(0, Math.abs(loudness - this.loudness) - LEVEL_RANGE)
  }

  /**
   * Distance of a place from the reference in dB, by a draft of the chain, with penalties for silence, for
   * peaks over 0 dBFS, and for levels far from that of the chain as it is.
   */
  loss(place: Place): number {
    try {
      const sound = this.soundAt(place, this.draft)
      const traits = traitsOf(sound, this.project.sampleRate)
      if (traits.loudness <= -120) return SILENT_LOSS
      const { total } =
        this.kind === 'aligned'
          ? mainDistance(traits, this.reference)
          : textureDistance(traits, this.reference)
      const over = Math.max(0, toDb(peakOf(sound)))
      return Number.isFinite(total) ? total + over + this.beyond(traits.loudness) : FAILED_LOSS
    } catch {
      return FAILED_LOSS
    }
  }

  /** The distance of a place by its parts, and the sound there. */
  judged(place: Place): { readonly distance: Distance; readonly traits: Traits } {
    const sound = this.soundAt(place, (this.full ??= this.base(this.project)))
    const traits = traitsOf(sound, this.project.sampleRate)
    const of = this.kind === 'aligned' ? distance : textureDistance
    return { distance: of(traits, this.reference), traits }
  }
}

function peakOf(sound: Stereo): number {
  let peak = 0
  for (const side of sound) for (let i = 0; i < side.length; i++) peak = Math.max(peak, Math.abs(side[i]))
  return peak
}
