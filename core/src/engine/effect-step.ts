import { BlockDelay } from '../dsp/block-delay'
import type { EffectBlock, EffectDefinition, EffectProcessor } from '../effects/definition'
import type { AudioData } from '../sources/definition'
import type { ParamSpecs } from '../units/parameter'
import type { AlignedInput } from './aligned-input'
import { BLOCK, type LaneBlocks, peakOf, type SongBlock, type StereoBlock, stereoBlock } from './block'
import { Guard } from './guard'
import { copy, mixDry } from './mixing'
import type { ParamSet } from './param-set'
import type { ParamState } from './param-state'
import { Seam } from './seam'
import { Switch } from './soft-switch'
import type { SoundStep } from './step'

/** Below this (−160 dBFS) a silent effect has rung out, and after so many blocks of it, it rests until sound comes in. */
const RUNG_OUT = 1e-8

const REST_BLOCKS = 96

export class EffectStep implements SoundStep {
  readonly out = stereoBlock()
  readonly guard: Guard
  input!: AlignedInput
  side: AlignedInput | null = null
  /** Monitor states, never part of a render: switched off to hear only what comes before, or on its way out. */
  unheard = false
  leaving = false
  /** Only its wet signal is heard, or only what it adds. */
  part: 'wet' | 'difference' | null = null
  private soloed = ''
  private heardPart: 'wet' | 'difference' = 'wet'
  private readonly partTurn = new Switch()
  private readonly wetSignal = stereoBlock()
  private readonly seam = new Seam()
  private readonly turn = new Switch()
  private readonly dryLeft: BlockDelay
  private readonly dryRight: BlockDelay
  private readonly dry = stereoBlock()
  private readonly io: { in: StereoBlock, out: StereoBlock, side: StereoBlock, song: SongBlock, lanes: LaneBlocks }
  private data: unknown = null
  private sound: AudioData | null = null
  private asleep = true
  private chosen = 0
  private quietBlocks = 0
  private fresh = true

  constructor(
    readonly definition: EffectDefinition, readonly processor: EffectProcessor<ParamSpecs>, readonly params: ParamSet,
    readonly latency: number, song: SongBlock, sampleRate: number,
  ) {
    this.guard = new Guard(sampleRate)
    this.dryLeft = new BlockDelay(latency)
    this.dryRight = new BlockDelay(latency)
    this.io = { in: this.out, out: this.out, side: this.out, song, lanes: params.laneBlocks }
    this.choices = params.all.filter((p) => p.spec.unit === 'choice')
    this.chosen = this.choiceSum()
  }

  private readonly choices: ParamState[]
  private readonly outSeam = new Seam()

  /** Takes its data where it has changed. */
  take(data: Readonly<Record<string, unknown>> | undefined, audio: (hash: string) => AudioData | null): void {
    const sound = this.definition.sound && typeof data?.audio === 'string' ? audio(data.audio) : null
    if (data === this.data && sound === this.sound) return
    this.data = data
    this.sound = sound
    this.processor.take?.(data ?? {}, sound)
  }

  /** Hears some items of its lanes alone; none for all. */
  solo(items: readonly number[]): void {
    const now = items.join()
    if (now === this.soloed) return
    this.soloed = now
    this.processor.solo?.(items)
    this.outSeam.cut()
  }

  /** Lets only a part of it be heard, with soft ends. `wet` is its signal before it was mixed with what went in. */
  private hearPart(dry: StereoBlock, wet: StereoBlock | null): void {
    const { out, part, partTurn } = this
    if (part) this.heardPart = part
    partTurn.move(part !== null)
    if (partTurn.start === 0 && partTurn.end === 0) return
    const difference = this.heardPart === 'difference'
    for (let i = 0; i < BLOCK; i++) {
      const w = partTurn.start + (partTurn.end - partTurn.start) * (i + 1) / BLOCK
      const l = difference ? out.left[i] - dry.left[i] : wet ? wet.left[i] : 0
      const r = difference ? out.right[i] - dry.right[i] : wet ? wet.right[i] : 0
      out.left[i] += w * (l - out.left[i])
      out.right[i] += w * (r - out.right[i])
    }
  }

  get peak(): number { return this.guard.peak }
  get isOn(): boolean { return this.params.byName.on.block.value >= 0.5 }

  run(): void {
    const { params, out, turn, io } = this
    params.update()
    const x = this.seam.process(this.input.read())
    let dry = x
    if (this.latency > 0) {
      dry = this.dry
      if (this.fresh) {
        this.fresh = false
        this.dryLeft.prime(x.left)
        this.dryRight.prime(x.right)
      }
      this.dryLeft.process(x.left, dry.left, BLOCK)
      this.dryRight.process(x.right, dry.right, BLOCK)
    }
    const side = this.side ? this.side.read() : x
    turn.move(this.isOn && !this.unheard && !this.leaving)
    if (turn.start === 0 && turn.end === 0) {
      if (!this.asleep) {
        this.processor.reset()
        this.asleep = true
      }
      copy(dry, out)
      this.hearPart(dry, null)
      this.guard.peak = peakOf(out)
      return
    }
    this.asleep = false
    const chosen = this.choiceSum()
    if (chosen !== this.chosen) {
      this.chosen = chosen
      this.outSeam.cut()
    }
    // With nothing coming in and nothing left to ring out, there is nothing to work out.
    if (!this.definition.generates && this.quietBlocks >= REST_BLOCKS && peakOf(x) === 0) {
      copy(dry, out)
      this.guard.peak = 0
      return
    }
    io.in = x
    io.side = side
    this.processor.process(io as EffectBlock, params.blocks as never)
    if (this.guard.inspect(out)) {
      this.processor.reset()
      this.outSeam.reset()
      turn.jump(false)
      copy(dry, out)
      return
    }
    this.quietBlocks = this.guard.peak < RUNG_OUT && peakOf(x) === 0 ? this.quietBlocks + 1 : 0
    const healed = this.outSeam.process(out)
    if (healed !== out) copy(healed, out)
    const wet = params.blocks.wet
    const parting = this.part !== null || this.partTurn.end > 0
    if (parting) copy(out, this.wetSignal)
    if (turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1) mixDry(out, dry, turn.start, turn.end, wet)
    if (parting) this.hearPart(dry, this.wetSignal)
  }

  reset(): void {
    this.params.reset()
    this.processor.reset()
    this.partTurn.jump(this.part !== null)
    this.seam.reset()
    this.outSeam.reset()
    this.dryLeft.reset()
    this.dryRight.reset()
    this.guard.reset()
    this.input.reset()
    this.side?.reset()
    this.turn.jump(this.isOn && !this.unheard)
    this.asleep = true
    this.quietBlocks = 0
    this.fresh = false
    this.chosen = this.choiceSum()
  }

  cut(): void { this.seam.cut() }

  /** One number that changes when any choice does: a switched mode makes a step, which the seam then hides. */
  private choiceSum(): number {
    let sum = 0
    for (let i = 0; i < this.choices.length; i++) sum = sum * 16 + this.choices[i].block.value
    return sum
  }
}
