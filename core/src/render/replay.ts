import type { AudioData, Stereo } from '../contract/audio'
import { EffectStep } from '../engine/effect-step'
import type { Engine } from '../engine/engine'
import { FaderStep } from '../engine/fader-step'
import { MergeStep } from '../engine/merge-step'
import type { Plan } from '../engine/plan'
import { nearestTo, withTapes } from '../engine/shares'
import { SourceStep } from '../engine/source-step'
import type { SoundStep, Step } from '../engine/step'
import { TapeStep, onTape, tapeBlock } from '../engine/tape-step'
import { unchangedSteps } from '../engine/unchanged'
import { type RenderPlan, type Tapes, blocksOf, ready, render, sparing } from './render'

type Audio = (hash: string) => AudioData | null

/**
 * Renders variants of one project, each only from where it differs. The first render records what every
 * source, effect and track gives; what gives the same in a variant is played from there. Same bits as a whole
 * render. Memory: 8 bytes a frame for each of them, twice that for a track.
 */
export class Replay {
  /** The project itself, as it is rendered. */
  readonly sound: Stereo
  private readonly recorded = new Map<string, Float32Array>()
  private whole: Plan | null = null

  constructor(
    private readonly plan: RenderPlan,
    private readonly audio: Audio,
  ) {
    this.sound = soundOf(plan, audio, new Recording(this.recorded, plan, (whole) => (this.whole = whole)))
  }

  /** @param plan of a project that has been changed; all else as in the first render */
  of(plan: RenderPlan): Stereo {
    const tapes = {
      thread: (engine: Engine) => {
        engine.divide((after) => this.played(plan, after))
      },
      isThere: () => true,
      next: () => this.at++,
    }
    return soundOf(plan, this.audio, tapes, this.engineOf)
  }

  private at = 0
  private readonly engineOf = sparing()

  private played(plan: RenderPlan, after: Plan): Plan {
    const { whole, recorded } = this
    this.at = 0
    if (!whole) return after
    const same = unchangedSteps(
      { project: this.plan.project, plan: whole },
      { project: plan.project, plan: after },
    )
    const playable = new Map<Step, string>()
    for (const key of recorded.keys()) {
      const step = after.steps.get(key)
      if (step && same.has(key)) playable.set(step, key)
    }
    const tapes = new Map<string, TapeStep>()
    for (const step of nearestTo(after, new Set(playable.keys()))) {
      const key = playable.get(step) ?? ''
      const tape = recorded.get(key) as Float32Array
      const size = tapeBlock(step as SoundStep)
      tapes.set(
        key,
        new TapeStep(step as SoundStep, () => tape.subarray(this.at * size, (this.at + 1) * size)),
      )
    }
    return withTapes(after, tapes)
  }
}

/** Records what the steps of an engine give while it renders. */
class Recording implements Tapes {
  private steps: { readonly step: SoundStep; readonly tape: Float32Array; readonly size: number }[] = []
  private at = 0

  constructor(
    private readonly recorded: Map<string, Float32Array>,
    private readonly render: RenderPlan,
    private readonly onPlan: (plan: Plan) => void,
  ) {}

  thread(engine: Engine): void {
    engine.divide((plan, order) => {
      const blocks = blocksOf(this.render, plan.latency)
      const runs = new Set(order)
      for (const [key, step] of plan.steps) {
        if (!runs.has(step) || step === plan.mix || !isRecorded(step)) continue
        const size = tapeBlock(step)
        const tape = new Float32Array(blocks * size)
        this.recorded.set(key, tape)
        this.steps.push({ step, tape, size })
      }
      this.onPlan(plan)
      return plan
    })
  }

  isThere(): boolean {
    return true
  }

  next(): void {
    for (const { step, tape, size } of this.steps) onTape(step, tape, this.at * size)
    this.at++
  }
}

/** Whether a step gives one sound and nothing else. */
const isRecorded = (step: Step): step is SoundStep =>
  (step instanceof EffectStep && step.outputs.length === 0) ||
  (step instanceof SourceStep && step.outputs.length === 1) ||
  step instanceof MergeStep ||
  step instanceof FaderStep

/** A render as a whole. */
export function soundOf(plan: RenderPlan, audio: Audio, tapes?: Tapes, engineOf = ready): Stereo {
  const sound: Stereo = [new Float32Array(plan.frames), new Float32Array(plan.frames)]
  let at = 0
  for (const { channels, done } of render(plan, audio, tapes, engineOf)) {
    for (const side of [0, 1] as const) sound[side].set(channels[side].subarray(0, done - at), at)
    at = done
  }
  return sound
}
