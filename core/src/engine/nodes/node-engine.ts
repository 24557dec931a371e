import type { AudioData } from '../../contract/audio'
import type { NoteBlock } from '../../contract/block'
import type { ChainNode, Listen, Track } from '../../project/schema'
import type { AlignedInput } from '../aligned-input'
import type { Draft, Made, PlanDraft } from '../draft'
import type { FaderStep } from '../fader-step'
import type { LinkWiring } from '../link-wiring'
import type { Monitor } from '../monitor'
import type { NoteLineStep } from '../note-line-step'
import type { ParamSet } from '../param-set'
import type { CompileContext, Plan } from '../plan'

/** Context in which a kind of node puts its steps on a plan. */
export interface Placing {
  readonly plan: PlanDraft
  readonly links: LinkWiring
  readonly context: CompileContext
  readonly track: Track
  readonly seedOf: (of: { readonly id: string; readonly seed?: number }) => number
  /** Puts a list of nodes on the plan and gives the last step of it. */
  readonly nodes: (list: readonly ChainNode[], from: Draft) => Generator<void, Draft>
  readonly fader: (key: string, owner: string, params: () => ParamSet) => Made<FaderStep>
  /** Connects the sound of a track or a branch that something listens to. */
  readonly listen: (draft: Draft, to: Listen, id: string, set: (input: AlignedInput) => void) => void
  readonly noteLine: () => Made<NoteLineStep>
  /** The notes of a line, delayed by so many frames of latency. */
  readonly notesAt: (line: Made<NoteLineStep>, late: number) => NoteBlock
}

/** Monitoring state of a node. */
export interface Hearing {
  readonly monitor: Monitor
  /** It lies after the monitored part. */
  readonly unheard: boolean
}

/** How a kind of node sounds: the plan, value edits, monitoring and costs follow from it. */
export interface NodeEngine<N extends ChainNode> {
  /** Puts its steps behind `from` on the plan and gives the last of them, in pieces. */
  readonly place: (node: N, from: Draft, on: Placing) => Generator<void, Draft>
  /** Takes what of an edited node is no parameter: data, sounds. */
  readonly adopt?: (node: N, plan: Plan, audio: (hash: string) => AudioData | null) => void
  readonly monitor?: (node: N, plan: Plan, hearing: Hearing) => void
  /** Keys of its own steps, without those of what is inside it. */
  readonly steps: (node: N) => readonly string[]
}

export const defineNodeEngine = <N extends ChainNode>(engine: NodeEngine<N>): NodeEngine<N> => engine
