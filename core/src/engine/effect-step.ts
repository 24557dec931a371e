import type { AudioData } from '../contract/audio'
import type { Load } from '../contract/load'
import type { EffectDefinition, EffectProcessor } from '../contract/effect'
import type { ParamSpecs } from '../units/parameter'
import type { AlignedInput } from './aligned-input'
import {
  BLOCK,
  type NoteBlock,
  type ParamBlock,
  peakOf,
  settle,
  type SongBlock,
  type StereoBlock,
  stereoBlock,
} from '../contract/block'
import { DryPath } from './dry-path'
import { EffectSleep } from './effect-sleep'
import { EffectTurn } from './effect-turn'
import { EffectWork } from './effect-work'
import { Guard } from './guard'
import { copy, mixDry } from './mixing'
import type { ParamSet } from './param-set'
import { PartHearing } from './part-hearing'
import { Declick } from './declick'
import type { DelayedOutput, SignalStep } from './signal-step'
import { SoftFeed } from './soft-feed'
import { type SoundStep, writeReadouts } from './step'

/** Input below this (−160 dBFS) is silence. */
const SILENCE = 1e-8

/**
 * One effect at work: its input joined where it jumps, its dry path in time, on/off and wet without clicks,
 * what monitoring may do to it, its guard, and its sleep.
 */
export class EffectStep implements SoundStep, SignalStep {
  readonly out = stereoBlock()
  readonly guard: Guard
  input!: AlignedInput
  side: AlignedInput | null = null
  leaving = false
  /** Monitor state, never part of a render: bypassed to hear only what lies before it. */
  unheard = false
  readonly tells: readonly string[]
  private readonly work: EffectWork
  private readonly hearing = new PartHearing()
  private readonly declick = new Declick()
  private readonly outputDeclick = new Declick()
  private readonly turn: EffectTurn
  private readonly feed = new SoftFeed()
  private readonly dryPath: DryPath
  private readonly sleep: EffectSleep

  constructor(
    definition: EffectDefinition,
    processor: EffectProcessor<ParamSpecs>,
    params: ParamSet,
    latency: number,
    song: SongBlock,
    sampleRate: number,
  ) {
    this.work = new EffectWork(definition, processor, params, this.out, song, sampleRate)
    this.guard = new Guard(sampleRate)
    this.tells = ['peak', 'trips', ...(definition.readouts ?? []).map((name) => `read:${name}`)]
    this.turn = new EffectTurn(latency)
    this.dryPath = new DryPath(latency)
    this.sleep = new EffectSleep(this.work, latency, sampleRate)
    // begun while playing, what gives echoes is fed softly, since they begin as its input does
    this.feed.jump(definition.group !== 'time' && definition.group !== 'space')
  }

  get definition(): EffectDefinition {
    return this.work.definition
  }
  get load(): Load {
    return this.definition.load
  }
  get processor(): EffectProcessor<ParamSpecs> {
    return this.work.processor
  }
  get params(): ParamSet {
    return this.work.params
  }
  get outputs(): readonly ParamBlock[] {
    return this.work.outputs
  }
  get delays(): readonly DelayedOutput[] {
    return this.work.delays
  }
  set delays(delays: readonly DelayedOutput[]) {
    this.work.delays = delays
  }
  get latency(): number {
    return this.dryPath.latency
  }
  get peak(): number {
    return this.guard.peak
  }
  get isOn(): boolean {
    return this.params.byName.on.block.value >= 0.5
  }
  get rings(): boolean {
    return !this.turn.isOff && !this.sleep.isAsleep
  }
  get isHeard(): boolean {
    return this.isOn
  }
  /** Plays only its wet signal, or only the difference. */
  get part(): 'wet' | 'difference' | null {
    return this.hearing.part
  }
  set part(part: 'wet' | 'difference' | null) {
    this.hearing.part = part
  }
  get notes(): NoteBlock {
    return this.work.notes
  }
  set notes(notes: NoteBlock) {
    this.work.notes = notes
  }
  /** Frames that its sound comes after the song. */
  get late(): number {
    return this.work.late
  }
  set late(frames: number) {
    this.work.late = frames
  }
  /** The song as it is at its input. */
  get song(): SongBlock {
    return this.work.song
  }
  set song(song: SongBlock) {
    this.work.song = song
  }

  /** Takes its data where it has changed. */
  take(data: Readonly<Record<string, unknown>> | undefined, sound: AudioData | null): void {
    if (!this.work.isOther(data, sound)) return
    this.sleep.wake()
    if (this.work.take(data, sound)) this.cutOutput()
  }

  /** Announces that its output will jump, as where items of its lanes come and go. */
  cutOutput(): void {
    this.outputDeclick.cut(this.latency)
  }

  /** Hears some items of its lanes alone; none for all. */
  solo(items: readonly number[]): void {
    if (this.work.solo(items)) this.cutOutput()
  }

  run(): void {
    this.work.update()
    this.process()
    this.work.delayOutputs()
  }

  private process(): void {
    const { work, turn, guard, feed, sleep } = this
    const exchanged = work.params.takeExchange()
    const x = this.declick.process(this.input.read())
    const dry = this.dryPath.process(x, this.input)
    const side = this.side ? this.side.read() : x
    if (guard.isWatching) guard.hear(peakOf(x))
    const trailing = this.trails()
    turn.move((this.isOn || trailing) && !this.unheard && !this.leaving && !guard.held)
    if (turn.isOff) {
      this.pass(dry)
      return
    }
    turn.isClean = false
    const fed = feed.process(x, !trailing)
    const silent = isSilent(fed) && (side === x || trailing || isSilent(side))
    if (sleep.isAsleep) {
      if (silent && !exchanged) {
        sleep.slept += BLOCK
        work.holdOutputs()
        copy(dry, this.out)
        guard.peak = 0
        // has rung out
        if (trailing) turn.jump(false)
        return
      }
      work.advance(sleep.slept)
      sleep.wake()
    }
    if (exchanged) this.cutOutput()
    work.process(fed, side)
    if (this.runsAway()) {
      copy(dry, this.out)
      return
    }
    if (silent) sleep.look(guard.peak)
    else sleep.wake()
    this.give(dry, fed !== x)
  }

  /** Whether it is off and rings out. */
  private trails(): boolean {
    return (
      this.definition.trails === true &&
      !this.isOn &&
      this.params.byName.trails.live >= 0.5 &&
      !this.turn.isClean &&
      !this.unheard &&
      !this.leaving &&
      !this.guard.held
    )
  }

  /** Passes on its input while it is off. */
  private pass(dry: StereoBlock): void {
    const { out, turn } = this
    this.work.holdOutputs()
    if (!turn.isClean) {
      this.processor.reset()
      turn.isClean = true
      this.sleep.wake()
    }
    copy(dry, out)
    this.hearing.process(out, dry, false)
    this.guard.peak = peakOf(out)
  }

  /** Whether the guard has cut it in this block. */
  private runsAway(): boolean {
    const { guard, work } = this
    if (guard.isLoud) work.stateGain()
    if (!guard.inspect(this.out, work.mostGain)) return false
    this.processor.reset()
    this.stop()
    return true
  }

  /** Mixes the output of the processor with the dry sound. */
  private give(dry: StereoBlock, isFading: boolean): void {
    const { out, turn, hearing } = this
    const { weight } = turn
    const joined = this.outputDeclick.process(out)
    if (joined !== out) copy(joined, out)
    if (turn.isWarming) {
      copy(dry, out)
      return
    }
    const { wet } = this.params.blocks
    const parting = hearing.isOn
    if (parting) hearing.keep(out)
    const mixes = !turn.isWhole || !wet.constant || wet.value !== 1
    if (mixes) mixDry(out, dry, weight.start, weight.end, wet)
    if (isFading && turn.isWhole) this.feed.addDry(out, dry, wet.value)
    if (parting) hearing.process(out, dry, true)
    // all that came in, and what left the processor, is settled already
    if (mixes || parting) settle(out)
  }

  /** Its processor threw: it is bypassed as if it had become unstable, and this block is silent. */
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

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.guard.peak
    if (slots[1] >= 0) values[slots[1]] = this.guard.trips
    writeReadouts(values, slots, 2, this.processor.readouts)
  }

  reset(): void {
    this.work.reset()
    this.hearing.reset()
    this.declick.reset()
    this.outputDeclick.reset()
    this.dryPath.reset()
    this.guard.reset()
    this.input.reset()
    this.side?.reset()
    this.turn.jump(this.isOn && !this.unheard)
    this.feed.jump(true)
    this.turn.isClean = true
    this.sleep.wake()
  }

  empty(): void {
    this.processor.reset()
    this.dryPath.empty()
    this.sleep.wake()
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
