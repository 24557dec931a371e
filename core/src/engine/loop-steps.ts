import { BLOCK, type SongBlock, type StereoBlock, peakOf, settle, stereoBlock } from '../contract/block'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { DelayTimes } from '../dsp/delay-times'
import { FRACTION } from '../dsp/fraction'
import { fromDb } from '../dsp/math'
import { DcBlocker, onePoleWeight } from '../dsp/one-pole'
import { RoundGate } from '../dsp/round-gate'
import { LOOP_LONGEST } from '../project/nodes/loop-back'
import type { AlignedInput } from './aligned-input'
import type { CompileContext } from './plan'
import { Declick } from './declick'
import { Guard } from './guard'
import { copy, mixDry } from './mixing'
import type { ParamSet } from './param-set'
import { Switch } from './soft-switch'
import { type SoundStep, tellsPeak } from './step'

/**
 * Samples that the way round takes at least: a block, since it is written at its end, and what reading
 * between samples needs.
 */
export const LEAST_ROUND = BLOCK + LEAST_DELAY - 1
/** Gain that what is in a loop may give without being a fault. */
const LOOP_GAIN = fromDb(24)

/**
 * Where a loop begins: what comes in, and what comes round through filters and saturation. It owns the
 * parameters and the delay line.
 */
export class LoopHeadStep implements SoundStep {
  readonly out = stereoBlock()
  peak = FRACTION
  readonly tells = ['peak', 'read:round', 'read:least']
  input!: AlignedInput
  /** Samples that what is inside takes, which are part of the time of a round. */
  inside = 0
  private readonly round: RoundTrip
  private readonly tone: RoundTone
  private readonly declick = new Declick()
  /** Begun while playing, it is fed softly, since its echoes begin as its input does. */
  private readonly begun = new Switch()
  /** Largest sample that comes round. */
  private readonly roundPeak = new Float64Array(1)

  constructor(
    readonly params: ParamSet,
    private readonly context: CompileContext,
  ) {
    this.round = new RoundTrip(context.sampleRate)
    this.tone = new RoundTone(context.sampleRate)
  }

  get rings(): boolean {
    return !this.round.isQuiet
  }

  run(): void {
    const { params, round, tone, out, roundPeak } = this
    params.update()
    const p = params.blocks
    round.read(p, this.context.song, this.inside)
    tone.process(round.left, round.right, p)
    const x = this.declick.process(this.input.read())
    round.count(x, p, this.inside)
    const feeds = p.feed.values()
    this.begun.move(true)
    let peak = 0
    for (let i = 0; i < BLOCK; i++) {
      const l = round.left[i]
      const r = round.right[i]
      const size = Math.max(Math.abs(l), Math.abs(r))
      if (size > peak) peak = size
      out.left[i] = x.left[i] * feeds[i] + l
      out.right[i] = x.right[i] * feeds[i] + r
    }
    roundPeak[0] = peak
    this.peak = settle(out)
  }

  /** Takes the output of the inner chain in this block. */
  take(sound: StereoBlock): void {
    this.round.write(sound, this.begun)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    const { sampleRate } = this.context
    if (slots[0] >= 0) values[slots[0]] = this.roundPeak[0]
    if (slots[1] >= 0) values[slots[1]] = (this.round.last + this.inside) / sampleRate
    if (slots[2] >= 0) values[slots[2]] = (LEAST_ROUND + this.inside) / sampleRate
  }

  /** Nothing comes round any more. */
  empty(): void {
    this.round.empty()
    this.tone.empty()
  }

  reset(): void {
    this.params.reset()
    this.params.takeExchange()
    this.input.reset()
    this.round.reset()
    this.empty()
    this.declick.reset()
    this.begun.jump(true)
    this.tone.open(this.params.byName.on.block.value >= 0.5)
  }

  cut(): void {
    this.declick.cut()
  }
}

type LoopParams = ParamSet['blocks']

/** The delay line of the feedback. */
class RoundTrip {
  readonly left: Float64Array
  readonly right: Float64Array
  private readonly line: StereoDelayLine
  private readonly times: DelayTimes
  private readonly oldL: Float64Array
  private readonly oldR: Float64Array
  private readonly writeL: Float64Array
  private readonly writeR: Float64Array
  private readonly gate: RoundGate
  private readonly passes: { readonly backL: Float64Array; readonly backR: Float64Array }
  private readonly entered: readonly [Float64Array, Float64Array]

  constructor(private readonly sampleRate: number) {
    const longest = LOOP_LONGEST * sampleRate
    this.line = new StereoDelayLine(longest + BLOCK, 8, BLOCK)
    this.times = new DelayTimes(this.line.block(), this.line.block(), longest, sampleRate)
    this.left = this.line.block()
    this.right = this.line.block()
    this.oldL = this.line.block()
    this.oldR = this.line.block()
    this.writeL = this.line.block()
    this.writeR = this.line.block()
    this.gate = new RoundGate(this.line.longest, sampleRate)
    this.passes = { backL: this.left, backR: this.right }
    this.entered = [new Float64Array(BLOCK), new Float64Array(BLOCK)]
  }

  /** Time at the end of the block, in samples. */
  get last(): number {
    return this.times.times[BLOCK - 1]
  }

  /** Whether nothing audible is left, as far back as is read or soon may be. */
  get isQuiet(): boolean {
    return this.line.isQuietWithin(Math.max(8 * this.sampleRate, this.last + this.sampleRate))
  }

  /** Reads the feedback. @param inside latency of the inner chain in samples */
  read(p: LoopParams, song: SongBlock, inside: number): void {
    const { times, line, left, right, oldL, oldR } = this
    const synced = p.sync.value === 1
    const asked = synced ? p.length : p.time
    const scale = synced ? 1 / song.beatsPerFrame : this.sampleRate
    times.follow(asked.values(), asked.constant, scale, p.change.value === 1, inside)
    // the line ends with the block before this one
    for (let i = 0; i < BLOCK; i++) if (times.times[i] < LEAST_ROUND) times.times[i] = LEAST_ROUND
    line.read(times.times, left, right, 0, BLOCK)
    if (!times.isFading) return
    for (let i = 0; i < BLOCK; i++) if (times.old[i] < LEAST_ROUND) times.old[i] = LEAST_ROUND
    line.read(times.old, oldL, oldR, 0, BLOCK)
    for (let i = 0; i < BLOCK; i++) {
      const w = times.weights[i]
      left[i] += w * (oldL[i] - left[i])
      right[i] += w * (oldR[i] - right[i])
    }
  }

  /** Stops sound after its last repeat. @param inside latency of the inner chain in samples */
  count({ left, right }: StereoBlock, p: LoopParams, inside: number): void {
    const { gate, entered } = this
    // the input sounds as well, before the first repeat
    const repeats = Math.round(p.repeats.value)
    gate.most = repeats > 0 ? repeats + 1 : 0
    gate.ago = inside
    if (gate.most > 0) {
      const feeds = p.feed.values()
      for (let i = 0; i < BLOCK; i++) {
        entered[0][i] = left[i] * feeds[i]
        entered[1][i] = right[i] * feeds[i]
      }
    }
    gate.process(this.passes, entered, this.times.times, null, 0, BLOCK)
  }

  /** Writes the feedback, faded in after the start. */
  write({ left, right }: StereoBlock, { start, end }: Switch): void {
    const { writeL, writeR } = this
    const step = (end - start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = start + step * (i + 1)
      writeL[i] = left[i] * w
      writeR[i] = right[i] * w
    }
    this.line.write(writeL, writeR, 0, BLOCK)
  }

  empty(): void {
    this.line.reset()
    this.gate.reset()
  }

  reset(): void {
    this.times.reset()
  }
}

// places of `state`: filters, left and right; corners and the weights worked out for them; how far it is open
const LOW_L = 0,
  LOW_R = 1,
  HIGH_L = 2,
  HIGH_R = 3,
  LOW_AT = 4,
  LOW = 5,
  HIGH_AT = 6,
  HIGH = 7,
  OPEN = 8

/** Processing of the feedback: filters, gain and saturation. Turned off, there is no feedback. */
class RoundTone {
  private readonly dcL: DcBlocker
  private readonly dcR: DcBlocker
  private readonly state = new Float64Array(9)

  constructor(private readonly sampleRate: number) {
    this.dcL = new DcBlocker(sampleRate)
    this.dcR = new DcBlocker(sampleRate)
  }

  open(isOn: boolean): void {
    this.state[OPEN] = isOn ? 1 : 0
  }

  empty(): void {
    this.dcL.reset()
    this.dcR.reset()
    this.state.fill(0, LOW_L, LOW_AT)
  }

  /** In place. */
  process(left: Float64Array, right: Float64Array, p: LoopParams): void {
    const { state, sampleRate } = this
    this.dcL.process(left)
    this.dcR.process(right)
    if (state[LOW_AT] !== p.lowCut.value)
      state[LOW] = onePoleWeight((state[LOW_AT] = p.lowCut.value), sampleRate)
    if (state[HIGH_AT] !== p.highCut.value)
      state[HIGH] = onePoleWeight((state[HIGH_AT] = p.highCut.value), sampleRate)
    const low = p.lowCut.value > 20.001 ? state[LOW] : 0
    const high = p.highCut.value < 19_999 ? state[HIGH] : 1
    const cuts = low > 0 ? 1 : 0
    const backs = p.feedback.values()
    const drives = p.saturation.values()
    const openFrom = state[OPEN]
    const open = (state[OPEN] = openFrom + 0.15 * ((p.on.value >= 0.5 ? 1 : 0) - openFrom))
    let lowL = state[LOW_L]
    let lowR = state[LOW_R]
    let highL = state[HIGH_L]
    let highR = state[HIGH_R]
    for (let i = 0; i < BLOCK; i++) {
      lowL += low * (left[i] - lowL)
      lowR += low * (right[i] - lowR)
      highL += high * (left[i] - lowL * cuts - highL)
      highR += high * (right[i] - lowR * cuts - highR)
      const g = backs[i] * (openFrom + ((open - openFrom) * (i + 1)) / BLOCK)
      left[i] = held(g * highL, drives[i])
      right[i] = held(g * highR, drives[i])
    }
    state[LOW_L] = Math.abs(lowL) < 1e-20 ? 0 : lowL
    state[LOW_R] = Math.abs(lowR) < 1e-20 ? 0 : lowR
    state[HIGH_L] = Math.abs(highL) < 1e-20 ? 0 : highL
    state[HIGH_R] = Math.abs(highR) < 1e-20 ? 0 : highR
  }
}

/**
 * As it is up to 0 dBFS and then ever softer, so that no loop grows without end; driven, soft from the start.
 */
function held(x: number, drive: number): number {
  let y = x
  if (drive > 1) y = x / Math.sqrt(1 + 0.25 * (drive * drive - 1) * x * x)
  if (y > 1) return 1 + (y - 1) / (1 + (y - 1) / 3)
  if (y < -1) return -1 + (y + 1) / (1 - (y + 1) / 3)
  return y
}

/**
 * The end of a loop: the output of the effects inside is fed back, and mixed with the input. Its guard
 * names the loop.
 */
export class LoopTailStep implements SoundStep {
  readonly out = stereoBlock()
  readonly tells = [...tellsPeak, 'trips']
  readonly guard: Guard
  input!: AlignedInput
  dry!: AlignedInput
  /** Input plus feedback, before the effects inside. */
  before!: AlignedInput
  /** Monitor state, never part of a render: only the input is heard. */
  unheard = false
  private readonly declick = new Declick()
  private readonly turn = new Switch()
  /** Whether the effects lie on the return alone. */
  private readonly returns = new Switch()

  constructor(
    readonly head: LoopHeadStep,
    sampleRate: number,
  ) {
    this.guard = new Guard(sampleRate)
    this.turn.jump(true)
  }

  get peak(): number {
    return this.guard.peak
  }
  get params(): ParamSet {
    return this.head.params
  }

  run(): void {
    const { head, out, turn, guard } = this
    const x = this.declick.process(this.input.read())
    const dry = this.dry.read()
    if (guard.isWatching) guard.hear(peakOf(dry))
    copy(x, out)
    if (guard.inspect(out, LOOP_GAIN)) {
      head.empty()
      turn.jump(false)
    }
    if (guard.held) {
      out.left.fill(0)
      out.right.fill(0)
    }
    head.take(out)
    this.returns.move(this.params.blocks.place.value === 1)
    const before = this.before.read()
    if (this.returns.end > 0 || this.returns.start > 0) this.giveBefore(before)
    turn.move(this.params.blocks.on.value >= 0.5 && !this.unheard && !guard.held)
    const { wet } = this.params.blocks
    if (turn.start === 0 && turn.end === 0) copy(dry, out)
    else if (turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1)
      mixDry(out, dry, turn.start, turn.end, wet)
    settle(out)
  }

  /** Gives what is before the effects, on the way from or to what is behind them. */
  private giveBefore({ left, right }: StereoBlock): void {
    const {
      out,
      returns: { start, end },
    } = this
    const step = (end - start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = start + step * (i + 1)
      out.left[i] += w * (left[i] - out.left[i])
      out.right[i] += w * (right[i] - out.right[i])
    }
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.guard.peak
    if (slots[1] >= 0) values[slots[1]] = this.guard.trips
  }

  reset(): void {
    this.declick.reset()
    this.input.reset()
    this.dry.reset()
    this.before.reset()
    this.returns.jump(this.params.byName.place.block.value >= 0.5)
    this.guard.reset()
    this.turn.jump(this.params.byName.on.block.value >= 0.5 && !this.unheard)
  }

  cut(): void {
    this.declick.cut()
  }
}
