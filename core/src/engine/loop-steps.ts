import { BLOCK, type StereoBlock, peakOf, settle, stereoBlock } from '../contract/block'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { DelayTimes } from '../dsp/delay-times'
import { FRACTION } from '../dsp/fraction'
import { fromDb } from '../dsp/math'
import { DcBlocker, onePoleWeight } from '../dsp/one-pole'
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
  readonly line: StereoDelayLine
  private readonly times: DelayTimes
  private readonly readL: Float64Array
  private readonly readR: Float64Array
  private readonly oldL: Float64Array
  private readonly oldR: Float64Array
  private readonly dcL: DcBlocker
  private readonly dcR: DcBlocker
  private readonly writeL = new Float64Array(BLOCK)
  private readonly writeR = new Float64Array(BLOCK)
  private readonly declick = new Declick()
  /**
   * Filters, left and right; corners and the weights worked out for them; how far it is open, since what is
   * off takes nothing round.
   */
  private readonly state = new Float64Array(9)
  private round = FRACTION
  /** Begun while playing, it is fed softly, since its echoes begin as its input does. */
  private readonly begun = new Switch()
  private readonly into = new Float64Array(BLOCK)
  private readonly roundPeak = new Float64Array(1)

  constructor(
    readonly params: ParamSet,
    private readonly context: CompileContext,
  ) {
    const { sampleRate } = context
    const longest = LOOP_LONGEST * sampleRate
    this.line = new StereoDelayLine(longest + BLOCK, 6, BLOCK)
    this.times = new DelayTimes(this.line.block(), this.line.block(), longest, sampleRate)
    this.readL = this.line.block()
    this.readR = this.line.block()
    this.oldL = this.line.block()
    this.oldR = this.line.block()
    this.dcL = new DcBlocker(sampleRate)
    this.dcR = new DcBlocker(sampleRate)
  }

  run(): void {
    const { params, context, times, readL, readR, oldL, oldR, out, state, line } = this
    params.update()
    const p = params.blocks
    const { song, sampleRate } = context
    const synced = p.sync.value === 1
    const asked = synced ? p.length : p.time
    times.follow(
      asked.values(),
      asked.constant,
      synced ? 1 / song.beatsPerFrame : sampleRate,
      p.change.value === 1,
      this.inside,
    )
    // the line ends with the block before this one
    for (let i = 0; i < BLOCK; i++) if (times.times[i] < LEAST_ROUND) times.times[i] = LEAST_ROUND
    line.read(times.times, readL, readR, 0, BLOCK)
    if (times.isFading) {
      for (let i = 0; i < BLOCK; i++) if (times.old[i] < LEAST_ROUND) times.old[i] = LEAST_ROUND
      line.read(times.old, oldL, oldR, 0, BLOCK)
      for (let i = 0; i < BLOCK; i++) {
        const w = times.weights[i]
        readL[i] += w * (oldL[i] - readL[i])
        readR[i] += w * (oldR[i] - readR[i])
      }
    }
    this.dcL.process(readL)
    this.dcR.process(readR)
    if (state[4] !== p.lowCut.value) state[5] = onePoleWeight((state[4] = p.lowCut.value), sampleRate)
    if (state[6] !== p.highCut.value) state[7] = onePoleWeight((state[6] = p.highCut.value), sampleRate)
    const low = p.lowCut.value > 20.001 ? state[5] : 0
    const high = p.highCut.value < 19_999 ? state[7] : 1
    let lowL = state[0],
      lowR = state[1],
      highL = state[2],
      highR = state[3]
    const backs = p.feedback.values(),
      drives = p.saturation.values(),
      feeds = p.feed.values()
    const x = this.declick.process(this.input.read())
    const openFrom = state[8]
    const open = (state[8] = openFrom + 0.15 * ((p.on.value >= 0.5 ? 1 : 0) - openFrom))
    this.begun.move(true)
    const fedFrom = this.begun.start,
      fedStep = (this.begun.end - fedFrom) / BLOCK
    let peak = 0
    for (let i = 0; i < BLOCK; i++) {
      lowL += low * (readL[i] - lowL)
      lowR += low * (readR[i] - lowR)
      highL += high * (readL[i] - lowL * (low > 0 ? 1 : 0) - highL)
      highR += high * (readR[i] - lowR * (low > 0 ? 1 : 0) - highR)
      const g = backs[i] * (openFrom + ((open - openFrom) * (i + 1)) / BLOCK)
      const l = held(g * highL, drives[i])
      const r = held(g * highR, drives[i])
      const size = Math.max(Math.abs(l), Math.abs(r))
      if (size > peak) peak = size
      out.left[i] = x.left[i] * feeds[i] + l
      out.right[i] = x.right[i] * feeds[i] + r
      this.into[i] = fedFrom + fedStep * (i + 1)
    }
    this.roundPeak[0] = peak
    state[0] = Math.abs(lowL) < 1e-20 ? 0 : lowL
    state[1] = Math.abs(lowR) < 1e-20 ? 0 : lowR
    state[2] = Math.abs(highL) < 1e-20 ? 0 : highL
    state[3] = Math.abs(highR) < 1e-20 ? 0 : highR
    this.round = (times.times[BLOCK - 1] + this.inside) / sampleRate
    this.peak = settle(out)
  }

  /** Takes what came out of the loop in this block. */
  take({ left, right }: StereoBlock): void {
    const { writeL, writeR } = this
    for (let i = 0; i < BLOCK; i++) {
      writeL[i] = left[i] * this.into[i]
      writeR[i] = right[i] * this.into[i]
    }
    this.line.write(writeL, writeR, 0, BLOCK)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.roundPeak[0]
    if (slots[1] >= 0) values[slots[1]] = this.round
    if (slots[2] >= 0) values[slots[2]] = (LEAST_ROUND + this.inside) / this.context.sampleRate
  }

  /** Nothing comes round any more. */
  empty(): void {
    this.line.reset()
    this.dcL.reset()
    this.dcR.reset()
    this.state.fill(0, 0, 4)
  }

  reset(): void {
    this.params.reset()
    this.params.takeExchange()
    this.input.reset()
    this.times.reset()
    this.empty()
    this.declick.reset()
    this.begun.jump(true)
    this.into.fill(1)
    this.state[8] = this.params.byName.on.block.value >= 0.5 ? 1 : 0
  }

  cut(): void {
    this.declick.cut()
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
 * Where a loop ends: what comes out of what is inside goes round, and out, mixed with what came in. Its guard
 * names the loop.
 */
export class LoopTailStep implements SoundStep {
  readonly out = stereoBlock()
  readonly tells = [...tellsPeak, 'trips']
  readonly guard: Guard
  input!: AlignedInput
  dry!: AlignedInput
  /** Monitor state, never part of a render: only what went in is heard. */
  unheard = false
  private readonly declick = new Declick()
  private readonly turn = new Switch()

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
    turn.move(this.params.blocks.on.value >= 0.5 && !this.unheard && !guard.held)
    const { wet } = this.params.blocks
    if (turn.start === 0 && turn.end === 0) copy(dry, out)
    else if (turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1)
      mixDry(out, dry, turn.start, turn.end, wet)
    settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.guard.peak
    if (slots[1] >= 0) values[slots[1]] = this.guard.trips
  }

  reset(): void {
    this.declick.reset()
    this.input.reset()
    this.dry.reset()
    this.guard.reset()
    this.turn.jump(this.params.byName.on.block.value >= 0.5 && !this.unheard)
  }

  cut(): void {
    this.declick.cut()
  }
}
