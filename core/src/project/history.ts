import { type Change, type Edit, apply, changeTo } from './edit'
import { FullError, overLimit } from './fullness'
import { type Patch, patched } from './patch'
import type { Project } from './schema'
import { invalidity } from './validity'

/** One undo step: what to do, what undoes it, and what a person calls it. */
export interface HistoryStep {
  readonly label: string
  readonly patches: readonly Patch[]
  readonly inverse: readonly Patch[]
}

/** A project and its history at one moment. Immutable: what is saved is always such a pair. */
export interface Moment {
  readonly project: Project
  readonly undo: readonly HistoryStep[]
  readonly redo: readonly HistoryStep[]
}

/** A project without a history. */
export const momentOf = (project: Project): Moment => ({ project, undo: [], redo: [] })

/**
 * Edits that become one undo step, made by one owner: a pointer that drags, a device, a recorder. What others
 * do meanwhile are steps of their own. It takes its place in the history by its end.
 */
export interface Gesture {
  /** Carries an edit out as part of the gesture; what it changed of the project, or nothing after the end. */
  edit(what: Edit): readonly Patch[]
  end(): void
  /**
   * Takes all of it back, as if it had not been; what that changed of the project. What others did meanwhile
   * stays.
   */
  cancel(): readonly Patch[]
  readonly isOpen: boolean
}

/** Undo steps that are kept. */
const DEEPEST = 500

/**
 * The history of a project. `project` is what is seen and heard; beneath it lies the project without the
 * gestures that are under way, over which every step is worked out, so that undoing all and doing it all
 * again gives the same documents, whatever other gestures did in between.
 */
export class History {
  project: Project
  private committed: Project
  private undoSteps: readonly HistoryStep[]
  private redoSteps: readonly HistoryStep[]
  private readonly open = new Set<OpenGesture>()

  constructor(moment: Moment) {
    this.project = this.committed = moment.project
    this.undoSteps = moment.undo
    this.redoSteps = moment.redo
  }

  get undo(): readonly HistoryStep[] {
    return this.undoSteps
  }
  get redo(): readonly HistoryStep[] {
    return this.redoSteps
  }
  get isBusy(): boolean {
    return this.open.size > 0
  }

  /** The project with its history. Gestures under way are a provisional step of it. */
  get moment(): Moment {
    const { project, committed, undoSteps: undo, redoSteps: redo } = this
    if (this.open.size === 0) return { project, undo, redo }
    const { patches, inverse } = changeTo(committed, project)
    const label = [...this.open][0]?.label ?? ''
    return patches.length
      ? { project, undo: [...undo, { label, patches, inverse }], redo: [] }
      : { project, undo, redo }
  }

  /**
   * Carries an edit out as a step of its own, whatever gestures are under way.
   * @param joins whether it becomes part of the last step where that has the same label: a switch back and
   *   forth, a clock that is followed
   */
  edit(label: string, what: Edit, joins = false): readonly Patch[] {
    const { patches, inverse, next } = this.within(what)
    if (patches.length === 0) return patches
    this.project = next
    if (this.open.size === 0) {
      const before = this.committed
      this.committed = next
      const last = this.undoSteps[this.undoSteps.length - 1]
      if (joins && last?.label === label) this.join(last, before, next)
      else this.push({ label, patches, inverse })
    } else this.commit(label, patches)
    return patches
  }

  /** Makes the last step lead on to another project; one that leads nowhere any more is no step. */
  private join(last: HistoryStep, before: Project, next: Project): void {
    const { patches, inverse } = changeTo(patched(before, last.inverse, true), next)
    this.undoSteps = [
      ...this.undoSteps.slice(0, -1),
      ...(patches.length ? [{ label: last.label, patches, inverse }] : []),
    ]
    this.redoSteps = []
  }

  /** An edit carried out, as far as there is room for what it adds. @throws FullError */
  private within(what: Edit): Change {
    const change = apply(this.project, what)
    if (change.isValue) return change
    const full = change.patches.length ? overLimit(change.next) : undefined
    // what was over before can be worked on, and made less
    if (full && !overLimit(this.project)) throw new FullError(full)
    // an edit that reading would refuse is not made; the former project is valid, so only changes are checked
    const wrong = change.patches.length ? invalidity(this.project, change.next) : undefined
    if (wrong) throw new FullError(wrong.replace('This project cannot be read:', 'This cannot be done:'))
    return change
  }

  /** Begins a gesture. */
  gesture(label: string): Gesture {
    const gesture = new OpenGesture(label, this)
    this.open.add(gesture)
    return gesture
  }

  /** Takes back the last step; what it changed of the project. Ends all gestures first. */
  stepBack(): readonly Patch[] {
    this.endGestures()
    const last = this.undoSteps[this.undoSteps.length - 1]
    if (!last) return []
    this.undoSteps = this.undoSteps.slice(0, -1)
    this.redoSteps = [...this.redoSteps, last]
    return this.go(last.inverse)
  }

  /** Does again what was taken back last. */
  stepForward(): readonly Patch[] {
    this.endGestures()
    const last = this.redoSteps[this.redoSteps.length - 1]
    if (!last) return []
    this.redoSteps = this.redoSteps.slice(0, -1)
    this.undoSteps = [...this.undoSteps, last]
    return this.go(last.patches)
  }

  endGestures(): void {
    for (const gesture of [...this.open]) gesture.end()
  }

  /** @internal An edit of a gesture. */
  editOf(gesture: OpenGesture, what: Edit): readonly Patch[] {
    if (!this.open.has(gesture)) return []
    const { patches, next } = this.within(what)
    if (patches.length === 0) return patches
    this.project = next
    gesture.take(patches)
    return patches
  }

  /** @internal The end of a gesture, which becomes a step over all that was done meanwhile. */
  finish(gesture: OpenGesture): void {
    if (!this.open.delete(gesture)) return
    // with the last of them, nothing is left out: what could not be told apart is part of it
    const next = this.open.size === 0 ? this.project : patched(this.committed, gesture.patches, true)
    const { patches, inverse } = changeTo(this.committed, next)
    this.committed = next
    if (patches.length) this.push({ label: gesture.label, patches, inverse })
  }

  /** @internal A gesture that shall not have been. */
  drop(gesture: OpenGesture): readonly Patch[] {
    if (!this.open.delete(gesture)) return []
    let next = this.committed
    for (const other of this.open) next = patched(next, other.patches, true)
    const { patches } = changeTo(this.project, next)
    this.project = next
    return patches
  }

  private commit(label: string, patches: readonly Patch[]): void {
    const change = changeTo(this.committed, patched(this.committed, patches, true))
    this.committed = change.next
    if (change.patches.length) this.push({ label, patches: change.patches, inverse: change.inverse })
  }

  private push(step: HistoryStep): void {
    this.undoSteps = [...this.undoSteps.slice(1 - DEEPEST), step]
    this.redoSteps = []
  }

  private go(patches: readonly Patch[]): readonly Patch[] {
    this.project = this.committed = patched(this.project, patches, true)
    return patches
  }
}

/** A gesture under way: all that it changed, a value that is set again and again only as it was set last. */
class OpenGesture implements Gesture {
  patches: Patch[] = []
  /**
   * Where the last setting of each path stands, as long as nothing came between that could mean something
   * else by it.
   */
  private readonly places = new Map<string, number>()

  constructor(
    readonly label: string,
    private readonly history: History,
  ) {}

  get isOpen(): boolean {
    return !this.ended
  }
  private ended = false

  edit(what: Edit): readonly Patch[] {
    return this.history.editOf(this, what)
  }

  end(): void {
    this.ended = true
    this.history.finish(this)
  }

  cancel(): readonly Patch[] {
    this.ended = true
    return this.history.drop(this)
  }

  take(patches: readonly Patch[]): void {
    for (const patch of patches) {
      const key = JSON.stringify(patch.path)
      const known = patch.op === 'set' ? this.places.get(key) : undefined
      if (known !== undefined) {
        this.patches[known] = patch
        continue
      }
      if (patch.op !== 'set' || [...this.places.keys()].some((other) => overlap(key, other)))
        this.places.clear()
      this.patches.push(patch)
      if (patch.op === 'set') this.places.set(key, this.patches.length - 1)
    }
  }
}

/** Whether one of two paths, as JSON, leads through what the other leads to. */
const overlap = (a: string, b: string): boolean =>
  a.startsWith(b.slice(0, -1)) || b.startsWith(a.slice(0, -1))
