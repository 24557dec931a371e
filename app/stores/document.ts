import type { Edit } from '@oleaje/core/project/edit'
import { FullError } from '@oleaje/core/project/fullness'
import { type Gesture, History, type Moment } from '@oleaje/core/project/history'
import type { Patch } from '@oleaje/core/project/patch'
import type { Project } from '@oleaje/core/project/schema'
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { ProjectLock } from '../storage/project-lock'
import { type SaveState, Saving } from './saving'

const READ_ONLY =
  'This project is open in another tab, so it is read-only here. Close the other tab and reload to edit.'

/**
 * The document: one project as plain data, changed only by edits of core. Each edit is an undo step, or part
 * of a gesture, which is one. Listeners get what changed at once. Project and history are saved as one
 * moment.
 */
export const useDocument = defineStore('document', () => {
  const project = shallowRef<Project | null>(null)
  const undoSteps = shallowRef<Moment['undo']>([])
  const redoSteps = shallowRef<Moment['redo']>([])
  const saveState = shallowRef<SaveState>('saved')
  const trouble = shallowRef('')
  const readOnly = shallowRef(false)
  /** Sounds of the project that this browser could not keep; see services/sounds. */
  const unkeptSounds = shallowRef(0)

  let history: History | null = null
  let lock: ProjectLock | null = null
  const saving = new Saving({ saveState, trouble, readOnly }, () => history)
  const save = (): Promise<void> => saving.save()
  const patchListeners = new Set<(project: Project, patches: readonly Patch[]) => void>()
  const loadListeners = new Set<(project: Project) => void>()

  /** Shows what the history has come to. */
  function publish(patches: readonly Patch[]): void {
    if (!history) return
    undoSteps.value = history.undo
    redoSteps.value = history.redo
    if (patches.length === 0) return
    project.value = history.project
    for (const listener of patchListeners) listener(history.project, patches)
    saving.schedule()
  }

  /** Whether the project can be edited; says so where it cannot. */
  function editable(): History | null {
    if (readOnly.value) trouble.value = READ_ONLY
    return readOnly.value ? null : history
  }

  /** Patches of an edit; none, and a message, where a limit is reached. */
  function withRoom(what: () => readonly Patch[] | undefined): readonly Patch[] {
    try {
      return what() ?? []
    } catch (error) {
      if (!(error instanceof FullError)) throw error
      trouble.value = error.message
      return []
    }
  }

  /**
   * Carries an edit out as one undo step, or as part of the last one with the same label where it `joins`
   * that.
   */
  function edit(label: string, what: Edit, joins = false): void {
    publish(withRoom(() => editable()?.edit(label, what, joins)))
  }

  /** Begins a gesture: its edits are one undo step, and those of others meanwhile are steps of their own. */
  function gesture(label: string): Gesture {
    const made = editable()?.gesture(label)
    return {
      edit: (what) => {
        const patches = withRoom(() => made?.edit(what))
        publish(patches)
        return patches
      },
      end: () => {
        if (!made?.isOpen) return
        made.end()
        publish([])
        if (saveState.value !== 'read only') saving.schedule()
      },
      cancel: () => {
        const patches = made?.cancel() ?? []
        publish(patches)
        return patches
      },
      get isOpen() {
        return made?.isOpen ?? false
      },
    }
  }

  const undo = (): void => publish(editable()?.stepBack() ?? [])
  const redo = (): void => publish(editable()?.stepForward() ?? [])

  /** Takes a project, and the exclusive right to edit it; where another tab has that, it opens read-only. */
  async function open(next: Moment, isNew = false): Promise<void> {
    history?.endGestures()
    await save()
    if (lock?.id !== next.project.id) {
      await lock?.release()
      lock = await ProjectLock.claim(next.project.id)
    }
    readOnly.value = !lock.isHeld
    history = new History(next)
    project.value = next.project
    undoSteps.value = next.undo
    redoSteps.value = next.redo
    saveState.value = readOnly.value ? 'read only' : 'saved'
    if (readOnly.value) trouble.value = READ_ONLY
    for (const listener of loadListeners) listener(next.project)
    if (isNew && !readOnly.value) {
      saveState.value = 'unsaved'
      await save()
    }
  }

  const undoLabel = computed(() => undoSteps.value[undoSteps.value.length - 1]?.label ?? '')
  const redoLabel = computed(() => redoSteps.value[redoSteps.value.length - 1]?.label ?? '')

  return {
    project,
    saveState,
    trouble,
    readOnly,
    unkeptSounds,
    undoLabel,
    redoLabel,
    undoSteps,
    redoSteps,
    edit,
    gesture,
    undo,
    redo,
    save,
    open,
    onPatches: (listener: (project: Project, patches: readonly Patch[]) => void) => {
      patchListeners.add(listener)
    },
    onLoad: (listener: (project: Project) => void) => {
      loadListeners.add(listener)
    },
  }
})
