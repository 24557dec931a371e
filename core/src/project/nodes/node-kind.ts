import type { z } from 'zod'
import type { LaneSpecs } from '../../units/lane'
import type { ParamSpecs } from '../../units/parameter'
import type { Listen } from '../schema-parts'
import type { ChainNode } from './index'

/** Fields that every node has. */
export interface NodeBase {
  kind: string
  id: string
  /** A name given by a person; its kind says what it is called without one. */
  name?: string
  params: Record<string, number>
  lanes?: Record<string, Record<string, number>[]>
  data?: Record<string, z.core.util.JSONType>
}

/** One of a container's parallel paths, with parameters of its own. */
export interface Branch {
  id: string
  name: string
  /** `level` in dB, `pan` −1…1, `polarity`, `mute`; all are link targets. */
  params: Record<string, number>
  nodes: ChainNode[]
  /** Pads of a kit that go along it, counted from 0, in a split of kind *pads*. */
  pads?: number[]
}

/** Context for the tail of a node. */
export interface Ringing {
  readonly beatsPerSecond: number
  /**
   * The longest of what is worked out from a node's values: as they are set, and as far as links move them.
   */
  readonly longest: (
    node: NodeBase,
    specs: ParamSpecs,
    seconds: (values: Readonly<Record<string, number>>) => number,
  ) => number
  /** How long a list of nodes rings: one after the other. */
  readonly along: (nodes: readonly ChainNode[]) => number
  /**
   * Seconds that a loop around a list of nodes rings on, by its feedback and the time of a round; Infinity
   * for ever.
   * @param seconds tail of the nodes themselves, from {@link along}
   */
  readonly loop: (nodes: readonly ChainNode[], seconds: number) => (feedback: number, round: number) => number
}

/**
 * What a kind of node is: the schema, the walk, targets, deletion and the structure key all follow from it.
 * How it sounds stands in `engine/nodes`, how the chart draws it in the app.
 */
export interface NodeKind<N extends NodeBase> {
  readonly kind: N['kind']
  /** Its name while it has none of its own. */
  readonly title: (node: N) => string
  /** Its schema; `nodes` is that of a list of nodes inside it. */
  readonly schema: (nodes: z.ZodType<ChainNode[]>) => z.ZodObject
  /** Its parameters by name; undefined where its type is unknown to this version. */
  readonly params: (node: N) => ParamSpecs | undefined
  readonly lanes?: (node: N) => LaneSpecs | undefined
  /** The parameters that have gauges as it is set up; all of them where it is not said. */
  readonly gauges?: (node: N) => readonly string[]
  /** How one is put around nodes that lie next to each other, or around none. */
  readonly around?: {
    readonly label: string
    readonly tip: string
    /** Additional search words. */
    readonly also: readonly string[]
    /** Tooltip where there is nothing to put it around; without it, it is not offered there. */
    readonly empty?: string
    readonly make: (nodes: ChainNode[], id: string) => N
  }
  /** The list of nodes directly inside it that its own id stands for, where something is put at its start. */
  readonly inside?: (node: N) => ChainNode[]
  /** Parallel paths inside it, each with an id, parameters and nodes of its own. */
  readonly branches?: (node: N) => Branch[]
  /** Its sidechain. */
  readonly listens?: (node: N) => Listen | null
  readonly stopListening?: (node: N) => void
  /** The sound of the project that it works with. */
  readonly sound?: (node: N) => string | null
  /**
   * Seconds until what is left in it has fallen by 120 dB once its input is silent; Infinity where it never
   * does.
   */
  readonly tail: (node: N, ringing: Ringing) => number
  /** A text that differs where the plan must. `list` gives that of a list of nodes. */
  readonly structure: (node: N, sampleRate: number, list: (nodes: readonly ChainNode[]) => string) => string
}

export const defineNodeKind = <N extends NodeBase>(kind: NodeKind<N>): NodeKind<N> => kind
