import { FRACTION } from '../dsp/fraction'
import { fromDb } from '../dsp/math'
import type { AudioData } from '../contract/audio'
import {
  type LaneBlocks,
  type NoteBlock,
  type ParamBlock,
  type SongBlock,
  type StereoBlock,
  noteBlock,
} from '../contract/block'
import type { EffectBlock, EffectDefinition, EffectProcessor } from '../contract/effect'
import type { ParamSpecs } from '../units/parameter'
import { fromNormalized } from '../units/scale'
import type { ParamSet } from './param-set'
import type { DelayedOutput } from './signal-step'

/** Gain in dB that an effect may give where its definition states none. */
const USUAL_GAIN = 24

/** The processor of an effect with its parameters, its data, and the song as it is at its input. */
export class EffectWork {
  /** Frames that its sound comes after the song. */
  late = 0
  /** Gain that it may give, worked out where it is loud. */
  mostGain = FRACTION
  /** Its signals, delayed for users behind latency. */
  delays: readonly DelayedOutput[] = []
  private readonly io: {
    in: StereoBlock
    out: StereoBlock
    side: StereoBlock
    song: SongBlock
    notes: NoteBlock
    lanes: LaneBlocks
  }
  private readonly values: Record<string, number> = {}
  /** Null before it was given any. */
  private data: Readonly<Record<string, unknown>> | undefined | null = null
  private sound: AudioData | null = null
  private soloed = ''
  /** Whether it was reset and has not run since. */
  private begins = false

  constructor(
    readonly definition: EffectDefinition,
    readonly processor: EffectProcessor<ParamSpecs>,
    readonly params: ParamSet,
    out: StereoBlock,
    song: SongBlock,
    private readonly sampleRate: number,
  ) {
    this.io = { in: out, out, side: out, song, notes: noNotes, lanes: params.laneBlocks }
  }

  get outputs(): readonly ParamBlock[] {
    return this.processor.outputs ?? noOutputs
  }

  /** Its signals while it does not work. */
  holdOutputs(): void {
    const { outputs } = this
    for (let i = 0; i < outputs.length; i++) outputs[i].hold(0)
  }

  delayOutputs(): void {
    const { delays } = this
    for (let i = 0; i < delays.length; i++) delays[i].delay.process(delays[i].source)
  }

  get song(): SongBlock {
    return this.io.song
  }
  set song(song: SongBlock) {
    this.io.song = song
  }
  get notes(): NoteBlock {
    return this.io.notes
  }
  set notes(notes: NoteBlock) {
    this.io.notes = notes
  }

  /** Whether data or sound are other than those it has. */
  isOther(data: Readonly<Record<string, unknown>> | undefined, sound: AudioData | null): boolean {
    return data !== this.data || sound !== this.sound
  }

  /** Takes its data; gives whether its output jumps by it. */
  take(data: Readonly<Record<string, unknown>> | undefined, sound: AudioData | null): boolean {
    this.data = data
    this.sound = sound
    return this.processor.take !== undefined && this.processor.take(data ?? {}, sound) !== true
  }

  /** Hears some items of its lanes alone; none for all. Gives whether these are others than before. */
  solo(items: readonly number[]): boolean {
    const now = items.join()
    if (now === this.soloed) return false
    this.soloed = now
    this.processor.solo?.(items)
    return true
  }

  /** Updates the parameters of this block. Free-running parts start with the sound, which may come later. */
  update(): void {
    this.params.update()
    if (!this.begins) return
    this.begins = false
    if (this.late > 0) this.advance(-this.late)
  }

  advance(frames: number): void {
    this.processor.advance?.(frames, this.params.blocks as never, this.io.song)
  }

  process(input: StereoBlock, side: StereoBlock): void {
    const { io } = this
    io.in = input
    io.side = side
    this.processor.process(io as EffectBlock, this.params.blocks as never)
  }

  reset(): void {
    this.begins = true
    this.params.reset()
    this.params.takeExchange()
    this.processor.reset()
    this.holdOutputs()
    for (const { delay } of this.delays) delay.reset()
  }

  /** The definition's tail in seconds by the values of this moment. */
  tailNow(): number {
    const { definition } = this
    return definition.tail
      ? definition.tail(
          this.valuesNow() as never,
          this.io.song.beatsPerFrame * this.sampleRate,
          this.data ?? undefined,
        )
      : 0
  }

  /** Works out the gain that it may give by the values of this moment. */
  stateGain(): void {
    const { definition } = this
    this.mostGain = fromDb(definition.gain ? definition.gain(this.valuesNow() as never) : USUAL_GAIN)
  }

  private valuesNow(): Readonly<Record<string, number>> {
    const { byName } = this.params
    for (const name in this.definition.params)
      this.values[name] = fromNormalized(byName[name].spec, byName[name].live)
    return this.values
  }
}

const noNotes = noteBlock()
const noOutputs: readonly ParamBlock[] = []
