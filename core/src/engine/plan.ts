import type { LateSong } from './late-song'
import type { AudioData } from '../contract/audio'
import type { SongBlock, StereoBlock } from '../contract/block'
import type { FaderStep } from './fader-step'
import type { AlignedInput } from './aligned-input'
import type { LinkState } from './link-state'
import type { ParamSet } from './param-set'
import type { Step } from './step'

/** Context for creating steps. */
export interface CompileContext {
  readonly sampleRate: number
  readonly song: SongBlock
  /** The live input of this block. */
  readonly input: StereoBlock
  readonly audio: (hash: string) => AudioData | null
  /** Line tracks up with each other; off while a live input is armed. */
  readonly compensate: boolean
}

/** Everything with a life, by key: kept from plan to plan. */
export interface KeptSteps {
  readonly steps: ReadonlyMap<string, Step>
  /** By id of the link, and for one that goes to every item of a lane its index: `id`, `id#2`. */
  readonly links: ReadonlyMap<string, LinkState>
  readonly inputs: ReadonlyMap<string, AlignedInput>
  /** The song, delayed by so many frames. */
  readonly songs: ReadonlyMap<number, LateSong>
}

/** The project as the engine runs it. */
export interface Plan extends KeptSteps {
  /** In the order in which they run. */
  readonly order: readonly Step[]
  /** Steps that a step reads from. */
  readonly needs: ReadonlyMap<Step, readonly Step[]>
  /** Samples that what arrives at a step comes after the song. */
  readonly arrivals: ReadonlyMap<Step, number>
  /** The delayed songs as a list. */
  readonly lateSongs: readonly LateSong[]
  /** Parameters by owner. */
  readonly params: ReadonlyMap<string, ParamSet>
  readonly mix: FaderStep
  /** Samples from the song to the output. */
  readonly latency: number
  /**
   * Links and sidechains that go round in a circle and so come a block late: ids of link, effect or
   * modulator.
   */
  readonly feedbackEdges: readonly string[]
}

type StepClass<S extends Step> = abstract new (...args: never[]) => S

/** The step that plays under a key, where it is of this kind. */
export function stepAt<S extends Step>(plan: KeptSteps, key: string, type: StepClass<S>): S | undefined {
  const step = plan.steps.get(key)
  return step instanceof type ? step : undefined
}
