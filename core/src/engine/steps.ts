import { BlockDelay } from '../dsp/block-delay'
import type { EffectBlock, EffectDefinition, EffectProcessor } from '../effects/definition'
import type { Split } from '../project/schema'
import type { AudioData, SourceDefinition, SourceProcessor } from '../sources/definition'
import { type ParamSpecs } from '../units/parameter'
import { Crossover } from '../dsp/crossover'
import { LinearBand } from '../dsp/linear-band'
import { sineOf } from '../dsp/sine-table'
import { crossovers } from '../project/targets'
import type { AlignedInput } from './aligned-input'
import { BLOCK, type LaneBlocks, ParamBlock, type SongBlock, type StereoBlock, peakOf, stereoBlock } from './block'
import { Guard } from './guard'
import type { ParamSet } from './param-set'
import type { ParamState } from './param-state'
import { Seam } from './seam'

/** Blocks that switching on or off takes: long enough to add no step above −60 dBFS to usual material. */
const SWITCH_BLOCKS = 6

/** Below this (−160 dBFS) a silent effect has rung out, and after so many blocks of it, it rests until sound comes in. */
const RUNG_OUT = 1e-8
const REST_BLOCKS = 96

/** One thing the engine does in each block. Steps outlive plans; the plan says in which order they run and on what. */
export interface Step {
  run(): void
  reset(): void
  /** Announces that what arrives here will come from elsewhere. */
  cut(): void
}

/** A step that gives sound. */
export interface SoundStep extends Step {
  readonly out: StereoBlock
  /** Largest sample of the last block, for the meters. */
  readonly peak: number
}

/** Goes between off (0) and on (1) with soft ends. */
class Switch {
  private at = 0
  /** Weights at the two ends of the present block. */
  start = 0
  end = 0

  jump(on: boolean): void {
    this.at = on ? SWITCH_BLOCKS : 0
    this.start = this.end = on ? 1 : 0
  }

  move(on: boolean): void {
    this.at = Math.max(0, Math.min(SWITCH_BLOCKS, this.at + (on ? 1 : -1)))
    const x = this.at / SWITCH_BLOCKS
    this.start = this.end
    this.end = x * x * (3 - 2 * x)
  }
}

const copy = (from: StereoBlock, to: StereoBlock): void => {
  to.left.set(from.left)
  to.right.set(from.right)
}

/** out = dry + (out − dry) · weight, with the weight of each frame on the way from `w0` to `w1` times `wet`. */
function mixDry(out: StereoBlock, dry: StereoBlock, w0: number, w1: number, wet: ParamBlock): void {
  const step = (w1 - w0) / BLOCK
  const moving = wet.constant ? null : wet.buffer
  const still = wet.value
  for (let i = 0; i < BLOCK; i++) {
    const w = (w0 + step * (i + 1)) * (moving ? moving[i] : still)
    out.left[i] = dry.left[i] + (out.left[i] - dry.left[i]) * w
    out.right[i] = dry.right[i] + (out.right[i] - dry.right[i]) * w
  }
}

export class SourceStep implements SoundStep {
  readonly out = stereoBlock()
  peak = 0
  audio: AudioData | null = null
  private readonly io: { out: StereoBlock, song: SongBlock, audio: AudioData | null, input: StereoBlock }

  constructor(
    readonly definition: SourceDefinition, private readonly processor: SourceProcessor<ParamSpecs>,
    readonly params: ParamSet, song: SongBlock, input: StereoBlock,
  ) {
    this.io = { out: this.out, song, audio: null, input }
  }

  run(): void {
    this.params.update()
    this.io.audio = this.audio
    this.processor.process(this.io, this.params.blocks as never)
    this.peak = peakOf(this.out)
  }

  reset(): void {
    this.params.reset()
    this.processor.reset()
  }

  cut(): void {}
}

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
        this.dryLeft.prime(x.left[0])
        this.dryRight.prime(x.right[0])
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

/** The parameters of something that several steps share, worked out in their turn before these. */
export class ParamsStep implements Step {
  constructor(readonly params: ParamSet) {}
  run(): void { this.params.update() }
  reset(): void { this.params.reset() }
  cut(): void {}
}

/** Gives each branch of a split its part of the input. */
export class BranchInStep implements SoundStep {
  readonly out = stereoBlock()
  peak = 0
  input!: AlignedInput
  /** How many branches there are, and which this is. */
  count = 1
  index = 0
  private readonly sections = [0, 1, 2, 3].map(() => new Crossover())

  private readonly linearBand: LinearBand | null

  /** @param linear whether bands are in linear phase, and so come later */
  constructor(public mode: Split['mode'], readonly params: ParamSet, private readonly sampleRate: number, readonly linear = false) {
    this.linearBand = linear ? new LinearBand() : null
  }

  run(): void {
    const { left, right } = this.input.read()
    const { out, mode } = this
    const second = this.index === 1
    if (mode === 'left-right') {
      if (second) out.left.fill(0)
      else out.left.set(left)
      if (second) out.right.set(right)
      else out.right.fill(0)
    } else if (mode === 'mid-side') {
      for (let i = 0; i < BLOCK; i++) {
        if (second) {
          const s = 0.5 * (left[i] - right[i])
          out.left[i] = s
          out.right[i] = -s
        } else out.left[i] = out.right[i] = 0.5 * (left[i] + right[i])
      }
    } else {
      out.left.set(left)
      out.right.set(right)
      if (mode === 'bands') this.band()
    }
    this.peak = peakOf(out)
  }

  /** Above every crossover below it, below the one above it, and in phase with those further up, so that all bands add up flat. */
  private band(): void {
    const { out, index, sampleRate } = this
    const last = Math.min(this.count, 5) - 1
    if (this.linearBand && index <= last) {
      const low = index === 0 ? 0 : this.corner(index - 1)
      this.linearBand.process(out.left, out.right, low, index === last ? Infinity : this.corner(index), sampleRate)
      return
    }
    for (let k = 0; k < last; k++) this.sections[k].process(out.left, out.right, k < index ? 'high' : k === index ? 'low' : 'all', this.params.blocks[crossovers[k]].values(), sampleRate)
    if (index > last) {
      out.left.fill(0)
      out.right.fill(0)
    }
  }

  /** Corner above a band at the end of this block; never below the ones before it. */
  private corner(index: number): number {
    let most = 0
    for (let k = 0; k <= index; k++) {
      const hz = this.params.blocks[crossovers[k]]
      const now = hz.constant ? hz.value : hz.buffer[BLOCK - 1]
      if (now > most) most = now
    }
    return most
  }

  reset(): void {
    this.input.reset()
    this.linearBand?.reset()
    for (const s of this.sections) s.reset()
  }

  cut(): void {}
}

/** Level, polarity, pan and mute: the end of a branch, or of a track. */
export class FaderStep implements SoundStep {
  readonly out = stereoBlock()
  peak = 0
  /** The sound before level and mute: what sidechains and followers hear. */
  readonly before = stereoBlock()
  input!: AlignedInput
  /** The track's source in time with the chain, for hearing it dry. Null for branches. */
  dry: AlignedInput | null = null
  /** Monitor states, never part of a render. */
  silenced = false
  hearDry = false
  matchGain = 1
  private readonly seam = new Seam()
  private readonly dryTurn = new Switch()
  private readonly soundTurn = new Switch()
  private gainNow = 1

  constructor(readonly params: ParamSet) { this.soundTurn.jump(true) }

  run(): void {
    const { params, out, before, dryTurn, soundTurn } = this
    params.update()
    copy(this.seam.process(this.input.read()), before)
    let x = before
    const dry = this.dry?.read()
    dryTurn.move(this.hearDry)
    if (dry && dryTurn.end + dryTurn.start > 0) {
      const d0 = dryTurn.start
      const step = (dryTurn.end - d0) / BLOCK
      for (let i = 0; i < BLOCK; i++) {
        const w = d0 + step * (i + 1)
        out.left[i] = before.left[i] + (dry.left[i] - before.left[i]) * w
        out.right[i] = before.right[i] + (dry.right[i] - before.right[i]) * w
      }
      x = out
    }
    const { level, pan, mute, polarity } = params.blocks
    soundTurn.move(mute.value < 0.5 && !this.silenced)
    const gain0 = this.gainNow
    const gain1 = this.gainNow = Math.abs(this.matchGain - gain0) < 1e-6 ? this.matchGain : gain0 + (this.matchGain - gain0) * 0.1
    const w0 = soundTurn.start * gain0
    const w1 = soundTurn.end * gain1
    if (level.constant && pan.constant && (!polarity || polarity.constant) && w0 === w1) {
      const g = level.value * w0 * (polarity ? polarity.value : 1)
      const l = pan.value > 0 ? g * (1 - pan.value) : g
      const r = pan.value < 0 ? g * (1 + pan.value) : g
      for (let i = 0; i < BLOCK; i++) {
        out.left[i] = x.left[i] * l
        out.right[i] = x.right[i] * r
      }
    } else {
      const levels = level.values()
      const pans = pan.values()
      const signs = polarity ? polarity.values() : null
      for (let i = 0; i < BLOCK; i++) {
        const g = levels[i] * (w0 + (w1 - w0) * (i + 1) / BLOCK) * (signs ? signs[i] : 1)
        const p = pans[i]
        out.left[i] = x.left[i] * (p > 0 ? g * (1 - p) : g)
        out.right[i] = x.right[i] * (p < 0 ? g * (1 + p) : g)
      }
    }
    this.peak = peakOf(out)
  }

  reset(): void {
    this.params.reset()
    this.seam.reset()
    this.input.reset()
    this.dry?.reset()
    this.dryTurn.jump(this.hearDry)
    this.soundTurn.jump(this.params.blocks.mute.value < 0.5 && !this.silenced)
    this.gainNow = this.matchGain
  }

  cut(): void { this.seam.cut() }
}

/** Sum of what arrives, and for containers the way round it: the end of a split or a group, or the head of the mix. */
export class MergeStep implements SoundStep {
  readonly out = stereoBlock()
  peak = 0
  inputs: AlignedInput[] = []
  /** What went in, in time with what comes out; null where nothing goes round. */
  dry: AlignedInput | null = null
  private readonly seam = new Seam()
  private readonly turn = new Switch()
  private readonly sum = stereoBlock()
  private readonly whole = new ParamBlock(1)
  /** Mixes neighbouring branches by the split's position instead of adding all. */
  selects = false

  /** @param shared whether another step works the parameters out */
  constructor(readonly params: ParamSet | null, private readonly shared = false) { this.turn.jump(true) }

  run(): void {
    const { params, sum, out, turn } = this
    if (!this.shared) params?.update()
    if (this.selects && params) this.select(params)
    else this.add()
    copy(this.seam.process(sum), out)
    if (params && this.dry) {
      const dry = this.dry.read()
      turn.move(params.blocks.on.value >= 0.5)
      const wet = params.blocks.wet ?? this.whole
      if (turn.start === 0 && turn.end === 0) copy(dry, out)
      else if (turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1) mixDry(out, dry, turn.start, turn.end, wet)
    }
    this.peak = peakOf(out)
  }

  /** Each branch has its place along the position; between two places both sound, with equal power or linearly. */
  private select(params: ParamSet): void {
    const { sum, inputs } = this
    const { position, law } = params.blocks
    const places = position.values()
    const linear = law.value === 1
    sum.left.fill(0)
    sum.right.fill(0)
    for (let k = 0; k < inputs.length; k++) {
      const { left, right } = inputs[k].read()
      for (let i = 0; i < BLOCK; i++) {
        const d = places[i] * (inputs.length - 1) - k
        const near = 1 - (d < 0 ? -d : d)
        if (near <= 0) continue
        const w = linear ? near : sineOf(0.25 * near)
        sum.left[i] += left[i] * w
        sum.right[i] += right[i] * w
      }
    }
  }

  private add(): void {
    const { sum } = this
    const first = this.inputs.length > 0 ? this.inputs[0].read() : null
    if (first) copy(first, sum)
    else {
      sum.left.fill(0)
      sum.right.fill(0)
    }
    for (let k = 1; k < this.inputs.length; k++) {
      const { left, right } = this.inputs[k].read()
      for (let i = 0; i < BLOCK; i++) {
        sum.left[i] += left[i]
        sum.right[i] += right[i]
      }
    }
  }

  reset(): void {
    if (!this.shared) this.params?.reset()
    this.seam.reset()
    for (const input of this.inputs) input.reset()
    this.dry?.reset()
    this.turn.jump(this.params ? this.params.blocks.on.value >= 0.5 : true)
  }

  cut(): void { this.seam.cut() }
}
