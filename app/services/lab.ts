import { askedAgain, toKeep } from '@oleaje/core/lab/kept'
import { type MeasurementId, measurementIds, measurements } from '@oleaje/core/lab/measurements'
import { type LabSettings, labSettingsSchema, usualLabSettings } from '@oleaje/core/lab/settings'
import type { LabScope, LabSubject } from '@oleaje/core/lab/subject'
import { apply } from '@oleaje/core/project/edit'
import { keepMeasurement } from '@oleaje/core/project/measurement-edits'
import { newId } from '@oleaje/core/project/new'
import { freeName } from '@oleaje/core/project/free-name'
import type { KeptMeasurement, Project, Track } from '@oleaje/core/project/schema'
import { goTowards } from '@oleaje/core/project/snapshots'
import { computed, shallowRef } from 'vue'
import { preference } from '../stores/preference'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { Dropped, type WorkerPool } from '../workers/worker-pool'
import { LabOverlays, type LabState, type Overlay } from './lab-overlays'
import { sentence } from './sentence'
import type { Sounds } from './sounds'
import { soundsHeard } from './sounds-heard'

/**
 * Measurements of the selected track’s chain: made in workers, laid over each other, kept with the project.
 */
export class Lab {
  readonly kind = preference<MeasurementId>('lab-kind', 'response', (k) => measurementIds.includes(k))
  readonly settings = preference<LabSettings>(
    'lab-settings',
    usualLabSettings,
    (kept) => labSettingsSchema.safeParse(kept).success,
  )
  readonly scope = preference<LabScope>('lab-scope', 'chain')
  /** Keys of the states that are measured. */
  readonly chosen = shallowRef<readonly string[]>(['now'])
  readonly shown = new LabOverlays()
  readonly running = shallowRef(false)
  readonly said = shallowRef('')
  /** What the overlays were measured of, and how. */
  private of: {
    readonly project: Project
    readonly kind: MeasurementId
    readonly track: string
    readonly settings: LabSettings
  } | null = null
  private runs = 0

  /** States that can be measured. */
  readonly states = computed((): readonly LabState[] => {
    const { track } = this.stores.selection
    if (!track) return []
    const version = track.heard.toUpperCase()
    return [
      { key: 'now', name: track.b ? `${version}, the current version` : 'Current chain' },
      ...(track.b ? [{ key: track.heard === 'a' ? 'b' : 'a', name: track.heard === 'a' ? 'B' : 'A' }] : []),
      { key: 'dry', name: 'Dry, without effects' },
      ...track.snapshots.map((s) => ({ key: `snapshot ${s.id}`, name: `Snapshot ${s.name}` })),
    ]
  })

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
    private readonly pool: WorkerPool,
    private readonly sounds: Sounds,
  ) {}

  /** Measures all chosen states, each in a worker of its own. */
  async run(): Promise<void> {
    const { project } = this.doc
    const { track, selectedId } = this.stores.selection
    if (!project || !track) return
    if (this.running.value) this.cancel()
    const run = ++this.runs
    const kind = this.kind.value
    const settings = { ...this.settings.value }
    const states = this.states.value.filter((s) => this.chosen.value.includes(s.key))
    this.said.value = ''
    this.running.value = true
    if (this.of?.kind !== kind || this.of.track !== track.id) this.shown.overlays.value = []
    if (this.of?.kind !== kind) this.shown.references.value = []
    if (this.shown.compared.value?.kind !== kind) this.shown.compared.value = null
    this.of = { project, kind, track: track.id, settings }
    try {
      await this.sounds.there
      const sounds = this.sounds.named(soundsHeard(project, track.id))
      const found = await Promise.all(
        states.map(async (state): Promise<Overlay> => {
          const subject = subjectOf(project, track, state, this.scope.value, selectedId)
          const result = await this.pool.run((call) =>
            call.measured(kind, JSON.parse(JSON.stringify(subject)) as LabSubject, sounds, settings),
          )
          return { ...state, result }
        }),
      )
      if (run !== this.runs) return
      this.shown.overlays.value = found
      if (states.length === 0) this.said.value = 'Choose at least one state to measure.'
    } catch (error) {
      if (run === this.runs && !(error instanceof Dropped))
        this.said.value = `The measurement failed: ${sentence(error)}`
    } finally {
      if (run === this.runs) this.running.value = false
    }
  }

  cancel(): void {
    if (!this.running.value) return
    this.runs++
    this.pool.cancel()
    this.running.value = false
    this.said.value = 'Measurement cancelled.'
  }

  /** Whether what is shown is of another track or an older state of the project, or there is nothing yet. */
  get isOld(): boolean {
    const { of } = this
    return (
      this.shown.overlays.value.length === 0 ||
      of?.track !== this.stores.selection.track?.id ||
      of?.project !== this.doc.project
    )
  }

  /** Keeps what was measured of the first overlay with the project. */
  keep(): void {
    const { project } = this.doc
    const [first] = this.shown.overlays.value
    const track = project?.tracks.find((t) => t.id === this.of?.track)
    if (!project || !first || !track || !this.of) return
    const { kind, settings } = this.of
    const subject = subjectOf(project, track, first, this.scope.value, this.stores.selection.selectedId)
    const plain = `${track.name}, ${measurements[kind].name.toLowerCase()}`.slice(0, 100)
    const taken = (project.measurements ?? []).map((m) => m.name)
    const name = taken.includes(plain) ? freeName(plain, taken) : plain
    const kept = toKeep(newId(), name, kind, subject, settings, first.result)
    this.doc.edit(`Keep measurement ${name}`, keepMeasurement(kept))
    this.said.value = `Kept “${name}” with the project.`
  }

  /** Measures again what a kept measurement did, and shows both. */
  async repeat(kept: KeptMeasurement): Promise<void> {
    const asked = askedAgain(kept)
    const { selection } = this.stores
    if (!asked) {
      this.said.value = 'This version of Oleaje does not know that kind of measurement.'
      return
    }
    if (!this.doc.project?.tracks.some((t) => t.id === kept.track)) {
      this.said.value = 'The track that was measured is gone.'
      return
    }
    if (selection.track?.id !== kept.track) selection.selectTrack(kept.track)
    if (kept.node) selection.select(kept.node)
    this.kind.value = asked.kind
    this.settings.value = asked.settings
    this.scope.value = asked.scope
    this.chosen.value = ['now']
    this.shown.compared.value = kept
    await this.run()
  }

  /** Another project is open. */
  forget(): void {
    this.cancel()
    this.shown.overlays.value = []
    this.shown.references.value = []
    this.shown.compared.value = null
    this.chosen.value = ['now']
    this.said.value = ''
    this.of = null
  }
}

/** A state of a track as something that can be measured. */
function subjectOf(
  project: Project,
  track: Track,
  state: LabState,
  scope: LabScope,
  selected: string | null,
): LabSubject {
  const change = (to: Partial<Track>): Project => ({
    ...project,
    tracks: project.tracks.map((t) => (t.id === track.id ? { ...t, ...to } : t)),
  })
  const snapshot = track.snapshots.find((s) => `snapshot ${s.id}` === state.key)
  const inState =
    state.key === 'a' || state.key === 'b'
      ? change({ heard: state.key })
      : state.key === 'dry'
        ? change({ a: { nodes: [] }, b: null, heard: 'a' })
        : snapshot
          ? apply(project, goTowards({}, snapshot.values, 1)).next
          : project
  return {
    name: state.name,
    project: inState,
    track: track.id,
    // without effects there is no part of them
    scope: state.key === 'dry' ? 'chain' : scope,
    node: selected ?? undefined,
  }
}
