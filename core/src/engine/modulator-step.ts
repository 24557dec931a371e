import type { Load } from '../contract/load'
import type { ModulatorDefinition, ModulatorProcessor } from '../contract/modulator'
import type { ParamSpecs } from '../units/parameter'
import type { AlignedInput } from './aligned-input'
import {
  type LaneBlocks,
  type NoteBlock,
  ParamBlock,
  type SongBlock,
  type StereoBlock,
  noteBlock,
  stereoBlock,
} from '../contract/block'
import type { ParamSet } from './param-set'
import type { DelayedOutput, SignalStep } from './signal-step'
import { writeReadouts } from './step'

/** One running modulator. A copy within a fan reads the parameters of the first, which updates them. */
export class ModulatorStep implements SignalStep {
  readonly outputs: readonly ParamBlock[]
  listens: AlignedInput | null = null
  /**
   * Outputs of other modulators that it works on, in time with its own: one for each slot of the definition,
   * null where it is empty.
   */
  inputs: (ParamBlock | null)[]
  notes: NoteBlock = noNotes
  private readonly io: {
    outputs: readonly ParamBlock[]
    side: StereoBlock
    song: SongBlock
    inputs: (ParamBlock | null)[]
    notes: NoteBlock
    lanes: LaneBlocks
  }
  /**
   * Monitor state, never part of a render: what it gives stands still so that others are heard alone. It goes
   * on unheard, and misses no note.
   */
  held = false
  private readonly unheard: readonly ParamBlock[]
  readonly tells: readonly string[]
  private data: unknown = null
  delays: readonly DelayedOutput[] = []

  constructor(
    readonly definition: ModulatorDefinition,
    readonly processor: ModulatorProcessor<ParamSpecs>,
    readonly params: ParamSet,
    song: SongBlock,
    private readonly copied = false,
  ) {
    this.outputs = definition.outputs.map(() => new ParamBlock(0))
    this.unheard = definition.outputs.map(() => new ParamBlock(0))
    // copies within a fan have no live values of their own
    this.tells = copied
      ? nothing
      : [
          ...definition.outputs.map((name, i) => (i === 0 ? '' : `.${name}`)),
          ...(definition.readouts ?? []).map((name) => `read:${name}`),
        ]
    this.inputs = (definition.inputs ?? []).map(() => null)
    this.io = {
      outputs: this.outputs,
      side: silence,
      song,
      inputs: this.inputs.map(() => null),
      notes: noNotes,
      lanes: params.laneBlocks,
    }
  }

  get load(): Load {
    return this.definition.load
  }

  /** Keeps time while its track is inaudible, unless it listens to sound, which is not computed then. */
  get keepsTime(): boolean {
    return this.listens === null
  }

  /** Takes its data where it has changed. */
  take(data: Readonly<Record<string, unknown>> | undefined): void {
    if (data === this.data) return
    this.data = data
    this.processor.take?.(data ?? {})
  }

  /** The song as it is where its sound comes in. */
  get song(): SongBlock {
    return this.io.song
  }
  set song(song: SongBlock) {
    this.io.song = song
  }

  run(): void {
    this.work()
    for (let i = 0; i < this.delays.length; i++) this.delays[i].delay.process(this.delays[i].source)
  }

  private work(): void {
    const { io, inputs } = this
    if (!this.copied) this.params.update()
    if (this.held) for (let i = 0; i < this.outputs.length; i++) this.outputs[i].hold(this.outputs[i].value)
    io.outputs = this.held ? this.unheard : this.outputs
    io.side = this.listens ? this.listens.read() : silence
    for (let i = 0; i < inputs.length; i++) io.inputs[i] = inputs[i]
    io.notes = this.notes
    this.processor.process(io, this.params.blocks as never)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    for (let k = 0; k < this.outputs.length && k < slots.length; k++)
      if (slots[k] >= 0) values[slots[k]] = this.outputs[k].value
    writeReadouts(values, slots, this.outputs.length, this.processor.readouts)
  }

  reset(): void {
    if (!this.copied) this.params.reset()
    this.processor.reset()
    this.listens?.reset()
    for (const { delay } of this.delays) delay.reset()
    for (const out of this.outputs) out.hold(0)
  }

  cut(): void {}
}

const nothing: readonly string[] = []
const noNotes = noteBlock()
const silence = stereoBlock()
