import { BlockDelay } from '../dsp/block-delay'
import { FRACTION } from '../dsp/fraction'
import { fromDb } from '../dsp/math'
import type { AudioData } from '../contract/audio'
import type { EffectBlock, EffectDefinition, EffectProcessor } from '../contract/effect'
import type { ParamSpecs } from '../units/parameter'
import { fromNormalized } from '../units/scale'
import type { AlignedInput } from './aligned-input'
import {
  BLOCK,
  type LaneBlocks,
  type NoteBlock,
  peakOf,
  settle,
  type SongBlock,
  type StereoBlock,
  noteBlock,
  stereoBlock,
} from '../contract/block'
import { Guard } from './guard'
import { copy, mixDry } from './mixing'
import type { ParamSet } from './param-set'
import { Declick } from './declick'
import { Switch } from './soft-switch'
import { type SoundStep, writeReadouts } from './step'

/** Input below this (−160 dBFS) is silence. */
const SILENCE = 1e-8
/** Output below this (−120 dBFS) is inaudible. */
const INAUDIBLE = 1e-6
/** Blocks of silence before an effect is asked whether it may sleep, and between two looks at its tail. */
const PATIENT_BLOCKS = 96
const LOOK_BLOCKS = 32
/** Gain in dB that an effect may give where its definition states none. */
const USUAL_GAIN = 24

/**
 * One effect at work: its input joined where it jumps, its dry path in time, on/off and wet without clicks,
 * what monitoring may do to it, its guard, and its sleep.
 */
export class EffectStep implements SoundStep {
  readonly out = stereoBlock()
  readonly guard: Guard
  readonly tells: readonly string[]
  input!: AlignedInput
  side: AlignedInput | null = null
  notes: NoteBlock = noNotes
  leaving = false
  /** Monitor state, never part of a render: switched off to hear only what comes before. */
  unheard = false
  /** Only its wet signal is heard, or only what it adds. */
  part: 'wet' | 'difference' | null = null
  private soloed = ''
  private heardPart: 'wet' | 'difference' = 'wet'
  private readonly partTurn = new Switch()
  private readonly wetSignal = stereoBlock()
  private readonly declick = new Declick()
  private readonly outputDeclick = new Declick()
  private readonly turn = new Switch()
  /** Whether it is fed; not, while it rings out. */
  private readonly feed = new Switch()
  private readonly fed = stereoBlock()
  private readonly dryLeft: BlockDelay
  private readonly dryRight: BlockDelay
  private readonly dry = stereoBlock()
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
  /** Whether its processor has been reset since it was last on. */
  private isClean = true
  private asleep = false
  private slept = 0
  /** Frames for which its input has been silent, and in which what was left in it has become inaudible. */
  private silentFor = 0
  private tailFrames = 0
  /** Largest sample since it was last looked at. */
  private loudest = FRACTION
  private mostGain = FRACTION
  private fresh = true
  /** Blocks for which it has worked unheard since it began, and for which it has to. */
  private warmed = 0
  private readonly warmBlocks: number

  constructor(
    readonly definition: EffectDefinition,
    readonly processor: EffectProcessor<ParamSpecs>,
    readonly params: ParamSet,
    readonly latency: number,
    private clock: SongBlock,
    private readonly sampleRate: number,
  ) {
    this.guard = new Guard(sampleRate)
    // begun while playing, what gives echoes is fed softly, since they begin as its input does
    this.feed.jump(definition.group !== 'time' && definition.group !== 'space')
    this.warmBlocks = latency > 0 ? Math.ceil(latency / BLOCK) + 1 : 0
    this.dryLeft = new BlockDelay(latency)
    this.dryRight = new BlockDelay(latency)
    this.tells = ['peak', 'trips', ...(definition.readouts ?? []).map((name) => `read:${name}`)]
    this.io = {
      in: this.out,
      out: this.out,
      side: this.out,
      song: clock,
      notes: noNotes,
      lanes: params.laneBlocks,
    }
  }

  get peak(): number {
    return this.guard.peak
  }
  get isOn(): boolean {
    return this.params.byName.on.block.value >= 0.5
  }
  get isHeard(): boolean {
    return this.isOn
  }

  /** Takes its data where it has changed. */
  take(data: Readonly<Record<string, unknown>> | undefined, sound: AudioData | null): void {
    if (data === this.data && sound === this.sound) return
    this.data = data
    this.sound = sound
    this.wake()
    if (this.processor.take && this.processor.take(data ?? {}, sound) !== true) this.cutOutput()
  }

  /** Announces that its output will jump, as where items of its lanes come and go. */
  cutOutput(): void {
    this.outputDeclick.cut(this.latency)
  }

  /** Hears some items of its lanes alone; none for all. */
  solo(items: readonly number[]): void {
    const now = items.join()
    if (now === this.soloed) return
    this.soloed = now
    this.processor.solo?.(items)
    this.cutOutput()
  }

  /**
   * Lets only a part of it be heard, with soft ends. `wet` is its signal before it was mixed with what went
   * in.
   */
  private hearPart(dry: StereoBlock, wet: StereoBlock | null): void {
    const { out, part, partTurn } = this
    if (part) this.heardPart = part
    partTurn.move(part !== null)
    if (partTurn.start === 0 && partTurn.end === 0) return
    const difference = this.heardPart === 'difference'
    for (let i = 0; i < BLOCK; i++) {
      const w = partTurn.start + ((partTurn.end - partTurn.start) * (i + 1)) / BLOCK
      const l = difference ? out.left[i] - dry.left[i] : wet ? wet.left[i] : 0
      const r = difference ? out.right[i] - dry.right[i] : wet ? wet.right[i] : 0
      out.left[i] += w * (l - out.left[i])
      out.right[i] += w * (r - out.right[i])
    }
  }

  /** Frames that its sound comes after the song. */
  late = 0
  /** Whether it has been reset and nothing has come since. */
  private begins = false

  /** The song as it is at its input. */
  get song(): SongBlock {
    return this.clock
  }
  set song(song: SongBlock) {
    this.clock = this.io.song = song
  }

  run(): void {
    const { params, out, turn, io, guard } = this
    params.update()
    if (this.begins) {
      this.begins = false
      // what runs by itself begins with the sound, which is not here yet
      if (this.late > 0) this.processor.advance?.(-this.late, params.blocks as never, this.clock)
    }
    const exchanged = params.takeExchange()
    const x = this.declick.process(this.input.read())
    let dry = x
    if (this.latency > 0) {
      dry = this.dry
      if (this.fresh) {
        this.fresh = false
        this.input.prime(this.dryLeft, this.dryRight, x)
      }
      this.dryLeft.process(x.left, dry.left, BLOCK)
      this.dryRight.process(x.right, dry.right, BLOCK)
    }
    const side = this.side ? this.side.read() : x
    if (guard.isWatching) guard.hear(peakOf(x))
    const trailing =
      this.definition.trails === true &&
      !this.isOn &&
      params.byName.trails.live >= 0.5 &&
      !this.isClean &&
      !this.unheard &&
      !this.leaving &&
      !guard.held
    const wanted = (this.isOn || trailing) && !this.unheard && !this.leaving && !guard.held
    // what begins from nothing gives its first sound late by its latency, and is faded in only then
    const warming = wanted && turn.end === 0 && this.warmed < this.warmBlocks
    this.warmed = warming ? this.warmed + 1 : wanted ? this.warmed : 0
    turn.move(wanted && !warming)
    if (turn.start === 0 && turn.end === 0 && !warming) {
      if (!this.isClean) {
        this.processor.reset()
        this.isClean = true
        this.wake()
      }
      copy(dry, out)
      this.hearPart(dry, null)
      guard.peak = peakOf(out)
      return
    }
    this.isClean = false
    this.feed.move(!trailing)
    const fed = this.feed.start < 1 || this.feed.end < 1 ? this.fade(x) : x
    const silent = isSilent(fed) && (side === x || trailing || isSilent(side))
    if (this.asleep) {
      if (silent && !exchanged) {
        this.slept += BLOCK
        copy(dry, out)
        guard.peak = 0
        // has rung out
        if (trailing) turn.jump(false)
        return
      }
      this.processor.advance?.(this.slept, params.blocks as never, this.clock)
      this.wake()
    }
    if (exchanged) this.cutOutput()
    io.in = fed
    io.side = side
    io.notes = this.notes
    this.processor.process(io as EffectBlock, params.blocks as never)
    if (guard.isLoud) this.mostGain = this.statedGain()
    if (guard.inspect(out, this.mostGain)) {
      this.processor.reset()
      this.stop()
      copy(dry, out)
      return
    }
    if (silent) this.lookForSleep()
    else this.wake()
    const joined = this.outputDeclick.process(out)
    if (joined !== out) copy(joined, out)
    if (warming) {
      copy(dry, out)
      return
    }
    const wet = params.blocks.wet
    const parting = this.part !== null || this.partTurn.end > 0
    if (parting) copy(out, this.wetSignal)
    const mixes = turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1
    if (mixes) mixDry(out, dry, turn.start, turn.end, wet)
    if (fed !== x && turn.start === 1 && turn.end === 1) this.addDry(dry, wet.value)
    if (parting) this.hearPart(dry, this.wetSignal)
    // all that came in, and what left the processor, is settled already
    if (mixes || parting) settle(out)
  }

  /** Something in it threw: it is held as where it has run away, and gives nothing of this block. */
  fail(): void {
    this.guard.trip()
    this.stop()
    this.out.left.fill(0)
    this.out.right.fill(0)
  }

  /** Goes out of the way at once. */
  private stop(): void {
    this.outputDeclick.reset()
    this.turn.jump(false)
  }

  /** What it is given while it is fed less and less. */
  private fade(x: StereoBlock): StereoBlock {
    const { fed, feed } = this
    const step = (feed.end - feed.start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = feed.start + step * (i + 1)
      fed.left[i] = x.left[i] * w
      fed.right[i] = x.right[i] * w
    }
    return fed
  }

  /** Ringing out, it stands beside the whole dry sound and no more in place of a share of it. */
  private addDry(dry: StereoBlock, wet: number): void {
    const { out, feed } = this
    const step = (feed.end - feed.start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = wet * (1 - feed.start - step * (i + 1))
      out.left[i] += dry.left[i] * w
      out.right[i] += dry.right[i] * w
    }
  }

  private wake(): void {
    this.asleep = false
    this.slept = this.silentFor = this.tailFrames = 0
  }

  /**
   * Sleeps once its input is silent and nothing audible is left in it: by the word of its processor, or else
   * when its tail by the values of this silence has passed.
   */
  private lookForSleep(): void {
    const { definition, processor } = this
    this.silentFor += BLOCK
    const blocks = this.silentFor / BLOCK
    this.loudest = Math.max(this.loudest, this.guard.peak)
    if (definition.generates || blocks % LOOK_BLOCKS !== 0) return
    const heard = this.loudest > INAUDIBLE
    this.loudest = 0
    if (heard || blocks < PATIENT_BLOCKS) return
    if (processor.isQuiet) {
      if (!processor.isQuiet()) return
    } else {
      this.tailFrames = Math.max(this.tailFrames, this.tailNow() * this.sampleRate + 2 * this.latency)
      if (this.silentFor < this.tailFrames) return
    }
    this.asleep = true
    processor.sleep?.()
  }

  /** The definition's tail in seconds by the values of this moment. */
  private tailNow(): number {
    const { definition } = this
    return definition.tail
      ? definition.tail(
          this.valuesNow() as never,
          this.clock.beatsPerFrame * this.sampleRate,
          this.data ?? undefined,
        )
      : 0
  }

  private statedGain(): number {
    const { definition } = this
    return fromDb(definition.gain ? definition.gain(this.valuesNow() as never) : USUAL_GAIN)
  }

  private valuesNow(): Readonly<Record<string, number>> {
    const { byName } = this.params
    for (const name in this.definition.params)
      this.values[name] = fromNormalized(byName[name].spec, byName[name].live)
    return this.values
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.guard.peak
    if (slots[1] >= 0) values[slots[1]] = this.guard.trips
    writeReadouts(values, slots, 2, this.processor.readouts)
  }

  reset(): void {
    this.begins = true
    this.params.reset()
    this.params.takeExchange()
    this.processor.reset()
    this.partTurn.jump(this.part !== null)
    this.declick.reset()
    this.outputDeclick.reset()
    this.dryLeft.reset()
    this.dryRight.reset()
    this.guard.reset()
    this.input.reset()
    this.side?.reset()
    this.turn.jump(this.isOn && !this.unheard)
    this.feed.jump(true)
    this.isClean = true
    this.wake()
    this.fresh = false
  }

  empty(): void {
    this.processor.reset()
    this.dryLeft.reset()
    this.dryRight.reset()
    this.wake()
  }

  cut(): void {
    this.declick.cut()
  }
}

/**
 * Whether there is nothing in a block. Sound shows at one of a few samples nearly always, so that the others
 * need not be looked at.
 */
function isSilent(x: StereoBlock): boolean {
  const { left, right } = x
  if (Math.abs(left[0]) >= SILENCE || Math.abs(right[77]) >= SILENCE || Math.abs(left[BLOCK - 1]) >= SILENCE)
    return false
  return peakOf(x) < SILENCE
}

const noNotes = noteBlock()
