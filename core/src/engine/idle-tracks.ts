import type { Project } from '../project/schema'
import { trackOf } from '../project/walk'
import type { Monitor } from './monitor'
import type { Plan } from './plan'
import { SendStep } from './send-step'
import type { Step } from './step'
import { SumStep } from './sum-step'

/** Blocks until a muted track's fader is down and its source may fall silent. */
const FADE_BLOCKS = 24
/** Blocks (16 s at 48 kHz) after which what a muted track still rings is let go. */
const RING_BLOCKS = 6000

/**
 * Which steps of a plan run. A muted track that nobody listens to, no follower, no sidechain and no open
 * panel, rests: first its source falls silent, then its effects ring out, then none of its steps run but
 * those that keep time: its source, its notes, and modulators that hear nothing. A track whose mute can be
 * moved by a link never rests: it must come back as it would have been.
 */
export class IdleTracks {
  /** The steps that run, in order. */
  order: readonly Step[] = []
  private rested: readonly Step[] = []
  private idle: readonly Step[] = []
  private key = ''
  private plan: Plan | null = null
  private waited = 0

  /**
   * Examines the plan again where it, its mutes or the visible values have changed. Returns true where other
   * steps may run than before.
   */
  update(plan: Plan, project: Project, monitor: Monitor): boolean {
    const muted = project.tracks
      .filter(
        (t) =>
          t.kind !== 'mix' &&
          (t.params.mute ?? 0) >= 0.5 &&
          !project.links.some((l) => l.target.owner === t.id && l.target.param === 'mute'),
      )
      .map((t) => t.id)
    const shown = monitor.probe && trackOf(project, monitor.probe.track)
    const key = `${muted.join()}/${shown?.id ?? ''}`
    if (plan === this.plan && key === this.key) return false
    this.key = key
    this.plan = plan
    const sources = plan.order.filter((step) => step.idle !== undefined)
    if (muted.length === 0) {
      this.order = this.rested = plan.order
      this.idle = []
      for (const step of sources) step.idle = false
      return true
    }
    const faders = new Set(muted.map((id) => plan.steps.get(`track:${id}`)))
    const after = new Set<Step | undefined>(
      project.sends.flatMap((s) => (s.before ? [] : [plan.steps.get(`send:${s.id}`)])),
    )
    const needed = new Set<Step>()
    const reach = (step: Step | undefined): void => {
      if (!step || needed.has(step)) return
      needed.add(step)
      // a muted track reaches no bus, but its pre-fader sends do
      const behind = step instanceof SumStep || (step instanceof SendStep && after.has(step))
      for (const from of plan.needs.get(step) ?? []) if (!behind || !faders.has(from)) reach(from)
    }
    reach(plan.mix)
    if (shown) {
      reach(plan.steps.get(`track:${shown.id}`))
      for (const m of shown.modulators) reach(plan.steps.get(`mod:${m.id}`))
    }
    // an inaudible source keeps its place in the song, so that it returns at the right place
    const silent = sources.filter((step) => !needed.has(step))
    for (const step of plan.order) if (step.keepsTime) needed.add(step)
    const before = new Set(this.order)
    this.rested = plan.order.filter((step) => needed.has(step))
    this.order = plan.order.filter((step) => needed.has(step) || before.has(step))
    this.idle = silent
    for (const step of sources) if (!silent.includes(step)) step.idle = false
    this.waited = 0
    return true
  }

  /** Everything that may rest does so at once: as at the start of playing, when nothing rings. */
  settle(): void {
    for (const source of this.idle) source.idle = true
    this.order = this.rested
    this.waited = RING_BLOCKS
  }

  /** Counts a block. Returns true where steps came to rest in it. */
  count(): boolean {
    if (this.waited >= RING_BLOCKS) return false
    this.waited++
    if (this.waited === FADE_BLOCKS) for (let i = 0; i < this.idle.length; i++) this.idle[i].idle = true
    if (this.waited < RING_BLOCKS) return false
    const some = this.order.length !== this.rested.length
    this.order = this.rested
    return some
  }
}
