import { type Change, type Edit, apply } from '@oleaje/core/project/edit'
import { type Patch, patched } from '@oleaje/core/project/patch'
import { checkProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { type HistoryStep, loadHistory, loadProject, saveProject } from '../storage/database'

/** Undo steps that are kept. */
const DEEPEST_HISTORY = 500
const SAVE_AFTER_MS = 400

/**
 * The document: one project as plain data, changed only by edits of core. Each change is an undo step; the changes of
 * one gesture are one step. Listeners get the patches at once. Saves itself within a second of the last change.
 */
export const useDocument = defineStore('document', () => {
  const project = shallowRef<Project | null>(null)
  const undoSteps = shallowRef<readonly HistoryStep[]>([])
  const redoSteps = shallowRef<readonly HistoryStep[]>([])
  const saveState = shallowRef<'saved' | 'saving' | 'unsaved' | 'memory only' | 'read only'>('saved')
  const trouble = shallowRef('')
  const readOnly = shallowRef(false)

  let gesture: { label: string, patches: Patch[], inverse: Patch[] } | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let saving: Promise<void> = Promise.resolve()
  let release: (() => void) | null = null
  const patchListeners = new Set<(project: Project, patches: readonly Patch[]) => void>()
  const loadListeners = new Set<(project: Project) => void>()

  function publish(change: { next: Project, patches: readonly Patch[] }): void {
    project.value = change.next
    for (const listener of patchListeners) listener(change.next, change.patches)
    scheduleSave()
  }

  /** Carries an edit out as one undo step, or as part of the gesture under way. */
  function edit(label: string, what: Edit): void {
    const now = project.value
    if (!now) return
    if (readOnly.value) {
      trouble.value = 'This project is open in another tab, so this one can only be looked at and listened to. Close the other tab and reload to edit here.'
      return
    }
    const change: Change = apply(now, what)
    if (change.patches.length === 0) return
    if (gesture) {
      mergeInto(gesture, change)
      publish(change)
      return
    }
    push({ label, patches: change.patches, inverse: change.inverse })
    publish(change)
  }

  function push(step: HistoryStep): void {
    undoSteps.value = [...undoSteps.value.slice(1 - DEEPEST_HISTORY), step]
    redoSteps.value = []
  }

  /** From now until `endGesture`, all edits are one undo step. */
  function beginGesture(label: string): void {
    endGesture()
    gesture = { label, patches: [], inverse: [] }
  }

  function endGesture(): void {
    const done = gesture
    gesture = null
    if (done && done.patches.length) {
      push(done)
      scheduleSave()
    }
  }

  function step(from: typeof undoSteps, to: typeof redoSteps, way: 'inverse' | 'patches'): void {
    endGesture()
    const now = project.value
    const last = from.value[from.value.length - 1]
    if (!now || !last || readOnly.value) return
    const patches = last[way]
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, last]
    publish({ next: patched(now, patches), patches })
  }

  const undo = (): void => step(undoSteps, redoSteps, 'inverse')
  const redo = (): void => step(redoSteps, undoSteps, 'patches')

  function scheduleSave(): void {
    if (readOnly.value || saveState.value === 'memory only') return
    saveState.value = 'unsaved'
    clearTimeout(timer)
    timer = setTimeout(() => void save(), SAVE_AFTER_MS)
  }

  /** Saves now. Where the browser refuses, the project stays in memory and the header says so. */
  function save(): Promise<void> {
    clearTimeout(timer)
    const now = project.value
    if (!now || readOnly.value || saveState.value === 'saved') return saving
    saveState.value = 'saving'
    saving = saving.then(() => saveProject(now, { undo: undoSteps.value, redo: redoSteps.value })).then(() => {
      if (saveState.value === 'saving') saveState.value = project.value === now ? 'saved' : 'unsaved'
    }).catch((error: unknown) => {
      saveState.value = 'memory only'
      trouble.value = error instanceof DOMException && error.name === 'QuotaExceededError'
        ? 'The browser has no room left to save in. Your project is still here: save it to a file now, then remove old projects.'
        : 'The browser does not let Oleaje save here (private mode, perhaps). Your project lives in this tab only: save it to a file before you close it.'
    })
    return saving
  }

  /** Takes a project, and the exclusive right to edit it; where another tab has that, it opens read-only. */
  async function open(next: Project, history: { undo: readonly HistoryStep[], redo: readonly HistoryStep[] } = { undo: [], redo: [] }, isNew = false): Promise<void> {
    await save()
    release?.()
    release = null
    readOnly.value = !(await claim(next.id))
    project.value = next
    undoSteps.value = history.undo
    redoSteps.value = history.redo
    saveState.value = readOnly.value ? 'read only' : 'saved'
    if (readOnly.value) trouble.value = 'This project is open in another tab, so this one opens read-only. Close the other tab and reload to edit here.'
    for (const listener of loadListeners) listener(next)
    if (isNew && !readOnly.value) {
      saveState.value = 'unsaved'
      await save()
    }
  }

  /** Opens a project that this browser keeps. False where it keeps none of that id, or a broken one. */
  async function openStored(id: string): Promise<boolean> {
    const stored = await loadProject(id)
    if (!stored) return false
    await open(checkProject(stored), await loadHistory(id))
    return true
  }

  async function claim(id: string): Promise<boolean> {
    if (!('locks' in navigator)) return true
    return new Promise((resolve) => {
      void navigator.locks.request(`oleaje:${id}`, { ifAvailable: true }, (lock) => {
        resolve(lock !== null)
        return lock ? new Promise<void>((done) => { release = done }) : undefined
      })
    })
  }

  const undoLabel = computed(() => undoSteps.value[undoSteps.value.length - 1]?.label ?? '')
  const redoLabel = computed(() => redoSteps.value[redoSteps.value.length - 1]?.label ?? '')

  return {
    project, saveState, trouble, readOnly, undoLabel, redoLabel, undoSteps, redoSteps,
    edit, beginGesture, endGesture, undo, redo, save, open, openStored,
    onPatches: (listener: (project: Project, patches: readonly Patch[]) => void) => { patchListeners.add(listener) },
    onLoad: (listener: (project: Project) => void) => { loadListeners.add(listener) },
  }
})

/** Adds a change to a gesture. A value that is set again and again is kept once: as it was first, and as it is last. */
function mergeInto(gesture: { patches: Patch[], inverse: Patch[] }, change: Change): void {
  for (const [k, patch] of change.patches.entries()) {
    const key = patch.path.join('/')
    const known = gesture.patches.findIndex((p) => p.op === 'replace' && p.path.join('/') === key)
    const inverse = change.inverse.find((p) => p.path.join('/') === key)
    if (known >= 0 && patch.op === 'replace') gesture.patches[known] = patch
    else {
      gesture.patches.push(patch)
      if (inverse) gesture.inverse.unshift(inverse)
      else if (k === 0) gesture.inverse.unshift(...change.inverse)
    }
  }
}
