import { modulatorDefinition, modulators } from '@oleaje/core/modulators/index'
import { curveOfRide } from '@oleaje/core/project/curve-edits'
import { together } from '@oleaje/core/project/edit'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import { newId } from '@oleaje/core/project/new'
import { pathOf, splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import type { Link, Project, Target } from '@oleaje/core/project/schema'
import { findTarget, ownerName } from '@oleaje/core/project/targets'
import type { Owner } from '@oleaje/core/project/walk'
import type { ParamSpec } from '@oleaje/core/units/parameter'
import { toNormalized } from '@oleaje/core/units/scale'
import type { EngineHost } from '../audio/host'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'

/** The kind of modulator that a ride becomes. */
const laneType = modulators.find((d) => d.isLane)?.id ?? ''
/** How far a ride may be from the curve that is kept of it, as a share of the staff. */
const TOLERANCE = 0.008
/**
 * How often the gauge is looked at, in ms. By a clock of its own: pictures may be slowed, a ride must not.
 */
const LOOK_MS = 16
/** Moments to a beat at which a ride is kept. */
const GRAIN = 24
/** Distance in beats up to which two moments are one movement: a look that comes late leaves so much out. */
const TOGETHER = 0.5
/**
 * A step of the song's place is its own going on, and no jump, up to so many times what the clock says, and a
 * little more.
 */
const GOES_ON = 1.5
const GOES_ON_BEATS = 0.25

/**
 * Records how a gauge is moved, by whatever moves it, while the song plays, and makes a curve of it that
 * moves the gauge from then on. A ride ends by itself at the end of the loop. Until the gauge has been moved,
 * passes overwrite each other.
 */
export class AutomationRecorder {
  private stop = (): void => {}
  /** Where the gauge stood, by moment of the song. */
  private readonly taken = new Map<number, number>()
  private last: { readonly beat: number; readonly at: number } | null = null
  private first = NaN
  private hasMoved = false

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'monitoring' | 'recording' | 'selection'>,
    private readonly host: EngineHost,
  ) {}

  /** Begins on a gauge (`owner.path`), or ends the ride under way. */
  toggle(gauge: string | null): void {
    if (this.stores.recording.recordingAutomation) this.end()
    else if (gauge) this.begin(gauge)
  }

  begin(gauge: string): void {
    const { doc } = this
    const { recording } = this.stores
    const target = this.target(gauge)
    if (!doc.project || !findTarget(doc.project, target)) return
    recording.recordingAutomation = gauge
    this.taken.clear()
    this.last = null
    this.first = NaN
    this.hasMoved = false
    // a ride that is there already keeps silent while a new one is made
    const old = this.rideLink(target)
    if (old) doc.edit('Record ride', updateLink(old.id, { on: false }))
    const timer = setInterval(() => this.look(target), LOOK_MS)
    this.stop = () => clearInterval(timer)
  }

  private look(target: Target): void {
    const { doc, host } = this
    const { monitoring } = this.stores
    const found = doc.project && findTarget(doc.project, target)
    if (!doc.project || !found || !monitoring.playing) {
      this.last = null
      return
    }
    const place = toNormalized(found.spec, found.base)
    const now = { beat: host.telemetry.fixed('beat'), at: performance.now() }
    if (Number.isNaN(this.first)) this.first = place
    if (place !== this.first) this.hasMoved = true
    // a ride is one pass: at the end of the loop it is complete, before it would overwrite its beginning
    const wrapped = this.last !== null && this.passOver(this.last, now, doc.project)
    if (wrapped && this.hasMoved) return this.end()
    this.taken.set(Math.round(now.beat * GRAIN), place)
    this.last = now
  }

  /** Forgets what an older pass has left between two looks; gives whether the loop repeated meanwhile. */
  private passOver(
    from: { beat: number; at: number },
    to: { beat: number; at: number },
    { loop, tempo }: Project,
  ): boolean {
    const most = ((to.at - from.at) / 60_000) * tempo * GOES_ON + GOES_ON_BEATS
    const wraps = to.beat < from.beat && loop.on
    const gone = wraps ? loop.end - from.beat + to.beat - loop.start : to.beat - from.beat
    // the song was sent elsewhere
    if (gone < 0 || gone > most) return false
    if (wraps && this.hasMoved) return true
    const [a, b] = [Math.round(from.beat * GRAIN), Math.round(to.beat * GRAIN)]
    for (const at of this.taken.keys()) if (wraps ? at > a || at < b : at > a && at < b) this.taken.delete(at)
    return wraps
  }

  /** Ends the ride and makes its curve, as it was played; a ride in which nothing moved leaves none. */
  end(): void {
    const { doc } = this
    const { selection, recording } = this.stores
    const gauge = recording.recordingAutomation
    if (!gauge || !doc.project) return
    this.stop()
    recording.recordingAutomation = null
    const target = this.target(gauge)
    const old = this.rideLink(target)
    const found = findTarget(doc.project, target)
    if (!found || this.taken.size < 2 || !this.hasMoved) {
      if (old) doc.edit('Discard ride', updateLink(old.id, { on: true }))
      return
    }
    const { loop } = doc.project
    const start = loop.on ? loop.start : 0
    const length = loop.on
      ? loop.end - loop.start
      : Math.max(1, Math.ceil(Math.max(...this.taken.keys()) / GRAIN))
    const moments = [...this.taken]
      .map(([at, y]) => [Math.min(length, Math.max(0, at / GRAIN - start)), y] as const)
      .sort((a, b) => a[0] - b[0])
    const curve = curveOfRide(moments, length, TOGETHER, TOLERANCE)
    const track = selection.track?.id ?? doc.project.tracks[0]?.id ?? ''
    const id = old?.source ?? newId()
    const moved = old
      ? [updateLink(old.id, { on: true })]
      : [
          addModulator(track, laneType, { id, name: `Ride of ${nameOf(found)}`.slice(0, 100) }),
          addLink(id, target, 0, 1, { mode: 'fixed' }),
        ]
    doc.edit(
      `Record the ride of ${nameOf(found)}`,
      together(
        ...moved,
        setParam(id, 'length', length),
        // a ride over a loop that does not begin at the first bar follows the song, so that it meets what it
        // was played to
        setParam(id, 'follows', start > 0 ? 1 : 0),
        setParam(id, 'phase', start > 0 ? (1 - (start % length) / length) % 1 : 0),
        setData(id, 'points', curve),
      ),
    )
    selection.traced = id
  }

  private target(gauge: string): Target {
    const [owner, path] = splitGaugeKey(gauge)
    return targetAt(owner, path)
  }

  /** The link of a ride that a gauge has already. */
  private rideLink(target: Target): Link | undefined {
    const { project } = this.doc
    const curves = new Set(
      project?.tracks
        .flatMap((t) => t.modulators)
        .filter((m) => m.type === laneType)
        .map((m) => m.id),
    )
    return project?.links.find(
      (l) =>
        curves.has(l.source) &&
        l.mode === 'fixed' &&
        l.target.owner === target.owner &&
        pathOf(l.target) === pathOf(target),
    )
  }
}

/** A parameter as people call it: a macro by its name, others with what they belong to. */
function nameOf({ owner, spec }: { owner: Owner; spec: ParamSpec }): string {
  const isMacro = owner.kind === 'modulator' && modulatorDefinition(owner.modulator.type)?.isMacro
  return isMacro ? owner.modulator.name : `${ownerName(owner)} ${spec.name.toLowerCase()}`
}
