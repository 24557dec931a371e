import { FRACTION } from '../dsp/fraction'
import type { AlignedInput } from './aligned-input'
import { BLOCK, settle, type StereoBlock, stereoBlock } from '../contract/block'
import { amplify, copy } from './mixing'
import type { ParamSet } from './param-set'
import { Declick } from './declick'
import { Switch } from './soft-switch'
import { type SoundStep, tellsPeak } from './step'

/** Level, polarity, pan and mute: the end of a branch, or of a track. */
export class FaderStep implements SoundStep {
  readonly out = stereoBlock()
  peak = FRACTION
  readonly tells = tellsPeak
  /** The sound before level and mute: what sidechains and followers hear. */
  readonly before = stereoBlock()
  input!: AlignedInput
  /** The track's source in time with the chain, for hearing it dry. Null for branches. */
  dry: AlignedInput | null = null
  /** Monitor states, never part of a render. */
  silenced = false
  hearDry = false
  matchGain = FRACTION
  private readonly declick = new Declick()
  private readonly dryTurn = new Switch()
  private readonly soundTurn = new Switch()
  private gainNow = FRACTION

  constructor(readonly params: ParamSet) {
    this.soundTurn.jump(true)
    this.gainNow = this.matchGain = 1
  }

  run(): void {
    const { params, out, before, dryTurn, soundTurn } = this
    params.update()
    copy(this.declick.process(this.input.read()), before)
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
    const gain1 = (this.gainNow =
      Math.abs(this.matchGain - gain0) < 1e-6 ? this.matchGain : gain0 + (this.matchGain - gain0) * 0.1)
    const w0 = soundTurn.start * gain0
    const w1 = soundTurn.end * gain1
    if (level.constant && pan.constant && (!polarity || polarity.constant) && w0 === w1) {
      const g = level.value * w0 * (polarity ? polarity.value : 1)
      const l = pan.value > 0 ? g * (1 - pan.value) : g
      const r = pan.value < 0 ? g * (1 + pan.value) : g
      amplify(x, l, r, out)
    } else move(x, level.values(), w0, w1, pan.values(), polarity ? polarity.values() : null, out)
    this.peak = settle(out)
  }

  reset(): void {
    this.params.reset()
    this.declick.reset()
    this.input.reset()
    this.dry?.reset()
    this.dryTurn.jump(this.hearDry)
    this.soundTurn.jump(this.params.blocks.mute.value < 0.5 && !this.silenced)
    this.gainNow = this.matchGain
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  cut(): void {
    this.declick.cut()
  }
}

/** The general case: whatever of it moves. */
function move(
  x: StereoBlock,
  levels: Float64Array,
  w0: number,
  w1: number,
  pans: Float64Array,
  signs: Float64Array | null,
  out: StereoBlock,
): void {
  const inL = x.left,
    inR = x.right,
    outL = out.left,
    outR = out.right
  for (let i = 0; i < BLOCK; i++) {
    const g = levels[i] * (w0 + ((w1 - w0) * (i + 1)) / BLOCK) * (signs ? signs[i] : 1)
    const p = pans[i]
    outL[i] = inL[i] * (p > 0 ? g * (1 - p) : g)
    outR[i] = inR[i] * (p < 0 ? g * (1 + p) : g)
  }
}
