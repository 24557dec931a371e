import { type LaneSpecs, type LaneValues, laneItems } from '../units/lane'
import { pathOf } from '../project/param-path'
import type { ParamSpec, ParamSpecs } from '../units/parameter'
import type { LaneBlocks, ParamBlock } from '../contract/block'
import type { LinkState } from './link-state'
import { ParamState } from './param-state'

type Values = Readonly<Record<string, number>>
const none: readonly LinkState[] = []
interface Entry {
  readonly state: ParamState
  readonly read: (values: Values, lanes: LaneValues | undefined) => number
}

/**
 * The parameters of one owner: those of its own by name, those of its lanes by index, and all in a list to be
 * updated.
 */
export class ParamSet {
  /** By path: `cutoff`, `bands[2].gain`. */
  byName: Record<string, ParamState> = {}
  readonly blocks: Record<string, ParamBlock> = {}
  readonly lanes: Record<string, Record<string, ParamBlock>[]> = {}
  readonly all: ParamState[] = []
  /** Where the live values of `all` stand among all live values; assigned by the report. */
  slots: Int32Array | null = null
  /** Whether any link acts on any of them. */
  linked = false
  /** Whether any has changed since the last report of live values. */
  moved = true
  /** Whether a parameter that jumps has jumped since anybody asked. */
  private exchanged = false
  /**
   * Those that are worked out in each block, in order: most parameters of a project stand still most of the
   * time, and cost nothing then.
   */
  private readonly awake = { states: [] as ParamState[], count: 0 }
  private entries: Entry[] = []
  private readonly plain: readonly (readonly [string, Entry])[]
  private readonly items: Record<
    string,
    { readonly names: readonly (readonly [string, Entry])[]; readonly blocks: Record<string, ParamBlock> }[]
  > = {}

  constructor(
    readonly specs: ParamSpecs,
    values: Values,
    private readonly sampleRate: number,
    private readonly laneSpecs: LaneSpecs = {},
    lanes?: LaneValues,
  ) {
    this.plain = Object.entries(specs).map(([name, spec]) => {
      const entry = this.entry(spec, values[name] ?? spec.default, (v) => v[name] ?? spec.default)
      this.blocks[name] = entry.state.block
      return [name, entry] as const
    })
    this.shape(lanes)
  }

  /** Makes as many items in each lane as are stored. Those that stay keep their state. Allocates. */
  shape(lanes: LaneValues | undefined): void {
    if (this.hasShape(lanes)) return
    this.slots = null
    const named = [...this.plain]
    for (const [lane, spec] of Object.entries(this.laneSpecs)) {
      const stored = laneItems(spec, lanes?.[lane])
      const items = (this.items[lane] ??= [])
      items.length = Math.min(items.length, stored.length)
      for (let i = items.length; i < stored.length; i++) {
        const blocks: Record<string, ParamBlock> = {}
        const names = Object.entries(spec.params).map(([param, p]) => {
          const read = (_: Values, all: LaneValues | undefined): number =>
            laneItems(spec, all?.[lane])[i]?.[param] ?? p.default
          const entry = this.entry(p, read({}, lanes), read)
          blocks[param] = entry.state.block
          return [pathOf({ lane, index: i, param }), entry] as const
        })
        items.push({ names, blocks })
      }
      this.lanes[lane] = items.map((item) => item.blocks)
      named.push(...items.flatMap((item) => item.names))
    }
    this.byName = Object.fromEntries(named.map(([name, entry]) => [name, entry.state]))
    this.entries = named.map(([, entry]) => entry)
    this.all.splice(0, this.all.length, ...this.entries.map((e) => e.state))
    this.wake()
  }

  private wake(): void {
    const { all, awake } = this
    for (let i = 0; i < all.length; i++) awake.states[i] = all[i]
    awake.count = all.length
    // a reset moves live values without a block being worked out, as on a track that rests
    this.moved = true
  }

  /** Whether there are as many items in each lane as are stored. */
  hasShape(lanes: LaneValues | undefined): boolean {
    if (this.entries.length === 0) return false
    for (const lane in this.laneSpecs)
      if (this.items[lane]?.length !== laneItems(this.laneSpecs[lane], lanes?.[lane]).length) return false
    return true
  }

  /** Whether just these links act on each of them. */
  isLinked(links: ReadonlyMap<string, readonly LinkState[]>): boolean {
    for (const name in this.byName) if (!this.byName[name].hasLinks(links.get(name) ?? none)) return false
    return true
  }

  /** Has just these links act on each of them. */
  link(links: ReadonlyMap<string, readonly LinkState[]>): void {
    for (const name in this.byName) this.byName[name].setLinks(links.get(name) ?? none)
    this.linked = links.size > 0
    this.wake()
  }

  get laneBlocks(): LaneBlocks {
    return this.lanes
  }

  set(values: Values, lanes?: LaneValues): void {
    for (const { state, read } of this.entries) state.set(read(values, lanes))
    this.wake()
  }

  /** Sets one by its path. */
  setOne(path: string, value: number): void {
    const state = this.byName[path] as ParamState | undefined
    if (!state) return
    state.set(value)
    this.wake()
  }

  /** Lets linked parameters reach their new values without a step. */
  soften(): void {
    for (const state of this.all) state.soften()
  }

  update(): void {
    const { states, count } = this.awake
    if (count === 0) return
    this.moved = true
    let left = 0
    for (let i = 0; i < count; i++) {
      const state = states[i]
      if (!state.update()) states[left++] = state
      if (state.jumped) this.exchanged = true
    }
    this.awake.count = left
  }

  /** Whether one of its parameters that jump (choices, loop marks) has jumped since the last question. */
  takeExchange(): boolean {
    const was = this.exchanged
    this.exchanged = false
    return was
  }

  reset(): void {
    for (const state of this.all) state.reset()
    this.wake()
  }

  private entry(spec: ParamSpec, value: number, read: Entry['read']): Entry {
    return { state: new ParamState(spec, value, this.sampleRate), read }
  }
}
