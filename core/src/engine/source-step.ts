import { FRACTION } from '../dsp/fraction'
import type { AudioData } from '../contract/audio'
import {
  type LaneBlocks,
  type NoteBlock,
  type SongBlock,
  type StereoBlock,
  noteBlock,
  settle,
  stereoBlock,
} from '../contract/block'
import type { Load } from '../contract/load'
import type { SourceDefinition, SourceProcessor } from '../contract/source'
import type { ParamSpecs } from '../units/parameter'
import type { AlignedInput } from './aligned-input'
import { copy } from './mixing'
import type { ParamSet } from './param-set'
import { Declick } from './declick'
import { sameItems } from './draft'
import { type SoundStep, writeReadouts } from './step'

/** One running source. While it is inaudible, it keeps its place in the song and is silent. */
export class SourceStep implements SoundStep {
  readonly out = stereoBlock()
  readonly outputs: readonly StereoBlock[]
  readonly keepsTime = true
  readonly tells: readonly string[]
  peak = FRACTION
  idle = false
  notes: NoteBlock = noNotes
  private data: unknown = null
  private readonly declicks: readonly Declick[]
  /** The track that it listens to. */
  side: AlignedInput | null = null
  private readonly io: {
    out: StereoBlock
    outputs: readonly StereoBlock[]
    song: SongBlock
    audio: AudioData | null
    sounds: readonly (AudioData | null)[]
    side: StereoBlock
    input: StereoBlock
    notes: NoteBlock
    lanes: LaneBlocks
  }

  constructor(
    readonly definition: SourceDefinition,
    private readonly processor: SourceProcessor<ParamSpecs>,
    readonly params: ParamSet,
    readonly latency: number,
    song: SongBlock,
    input: StereoBlock,
  ) {
    this.outputs = [this.out, ...(definition.outputs ?? []).map(() => stereoBlock())]
    this.declicks = this.outputs.map(() => new Declick())
    this.tells = ['peak', ...(definition.readouts ?? []).map((name) => `read:${name}`)]
    this.io = {
      out: this.out,
      outputs: this.outputs,
      song,
      audio: null,
      sounds: noSounds,
      side: silence,
      input,
      notes: noNotes,
      lanes: params.laneBlocks,
    }
  }

  get load(): Load | undefined {
    return this.definition.load
  }

  get audio(): AudioData | null {
    return this.io.audio
  }
  set audio(sound: AudioData | null) {
    if (sound === this.io.audio) return
    this.io.audio = sound
    this.cut()
  }

  get sounds(): readonly (AudioData | null)[] {
    return this.io.sounds
  }
  set sounds(sounds: readonly (AudioData | null)[]) {
    if (sameItems(sounds, this.io.sounds)) return
    this.io.sounds = sounds
    this.cut()
  }

  /** Takes its data where it has changed. */
  take(data: Readonly<Record<string, unknown>> | undefined): void {
    if (data === this.data) return
    this.data = data
    this.processor.take?.(data ?? {})
  }

  run(): void {
    const { params, io, out, processor } = this
    params.update()
    const exchanged = params.takeExchange()
    io.notes = this.notes
    io.side = this.side ? this.side.read() : silence
    if (this.idle) {
      if (processor.skip) processor.skip(io, params.blocks as never)
      else processor.process(io, params.blocks as never)
      for (let k = 0; k < this.outputs.length; k++) {
        this.outputs[k].left.fill(0)
        this.outputs[k].right.fill(0)
      }
      for (let k = 0; k < this.declicks.length; k++) this.declicks[k].reset()
      this.peak = 0
      return
    }
    if (exchanged) this.cut()
    processor.process(io, params.blocks as never)
    for (let k = 0; k < this.outputs.length; k++) {
      const output = this.outputs[k]
      const joined = this.declicks[k].process(output)
      if (joined !== output) copy(joined, output)
    }
    this.peak = settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
    writeReadouts(values, slots, 1, this.processor.readouts)
  }

  reset(): void {
    this.params.reset()
    this.processor.reset()
    this.side?.reset()
    for (const declick of this.declicks) declick.reset()
  }

  mute(): void {
    for (const { left, right } of this.outputs) {
      left.fill(0)
      right.fill(0)
    }
  }

  cut(): void {
    for (let k = 0; k < this.declicks.length; k++) this.declicks[k].cut()
  }
}

const noNotes = noteBlock()
const noSounds: readonly (AudioData | null)[] = []
const silence = stereoBlock()
