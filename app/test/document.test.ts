import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { addNode } from '@oleaje/core/project/chain-edits'
import { patched } from '@oleaje/core/project/patch'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { setParam } from '@oleaje/core/project/value-edits'
import { saveMoment } from '../storage/database'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

const saved = vi.mocked(saveMoment)

async function opened() {
  const doc = useDocument()
  const project = newProject('Night Ferry')
  project.tracks.unshift(newTrack('Kit', newSource('tone', {}, null, 'src'), 't'))
  await doc.open(momentOf(project))
  return doc
}
const level = (doc: ReturnType<typeof useDocument>): number | undefined =>
  doc.project?.tracks[0]?.params.level

// saves that are due stay with the test that made them
afterEach(() => {
  vi.clearAllTimers()
  vi.useRealTimers()
})
beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  saved.mockReset().mockResolvedValue(undefined)
})

describe('the document', () => {
  it('takes each edit as a step with a name, back and forth, and shares what did not change', async () => {
    const doc = await opened()
    const before = doc.project
    doc.edit('Set level', setParam('t', 'level', -6))
    doc.edit('Add Delay', addNode(newEffect('delay', {}, 'd'), { startOf: 't' }))
    const after = doc.project
    expect(after?.tracks[1]).toBe(before?.tracks[1])
    expect(doc.undoLabel).toBe('Add Delay')
    doc.undo()
    doc.undo()
    expect(doc.project).toEqual(before)
    expect([doc.undoLabel, doc.redoLabel]).toEqual(['', 'Set level'])
    doc.undo()
    expect(doc.project).toEqual(before)
    doc.redo()
    doc.redo()
    expect(doc.project).toEqual(after)
    expect(doc.redoLabel).toBe('')
  })
  it('forgets what was undone as soon as something else is done', async () => {
    const doc = await opened()
    doc.edit('One', setParam('t', 'level', -6))
    doc.undo()
    doc.edit('Another', setParam('t', 'pan', 0.5))
    expect(doc.redoLabel).toBe('')
    doc.redo()
    expect(level(doc)).not.toBe(-6)
  })
  it('makes one step of a gesture, however often a value is set in it, and none of one that changes nothing', async () => {
    const doc = await opened()
    const first = level(doc)
    const drag = doc.gesture('Drag level')
    for (let db = 0; db > -40; db--) drag.edit(setParam('t', 'level', db))
    drag.edit(setParam('t', 'pan', 0.25))
    drag.end()
    expect(doc.undoSteps).toHaveLength(1)
    expect(doc.undoSteps[0]?.patches).toHaveLength(2)
    doc.undo()
    expect(level(doc)).toBe(first)
    doc.redo()
    expect([level(doc), doc.project?.tracks[0]?.params.pan]).toEqual([-39, 0.25])
    const none = doc.gesture('Nothing')
    none.edit(setParam('t', 'level', -39))
    none.end()
    expect(doc.undoSteps).toHaveLength(1)
  })
  it('keeps edits of others out of a gesture, and ends it before something is undone', async () => {
    const doc = await opened()
    const drag = doc.gesture('Drag')
    drag.edit(setParam('t', 'level', -3))
    doc.edit('Turn', setParam('t', 'pan', 1))
    drag.edit(setParam('t', 'level', -5))
    doc.undo()
    expect([doc.undoLabel, doc.redoLabel]).toEqual(['Turn', 'Drag'])
    expect(doc.project?.tracks[0]?.params.pan).toBe(1)
    expect(level(doc)).not.toBe(-5)
  })
  it('hands its listeners patches that lead from what they had to what there is, also when undoing', async () => {
    const doc = await opened()
    let mirror = doc.project!
    doc.onPatches((next, patches) => {
      mirror = patched(mirror, patches)
      expect(mirror).toEqual(next)
    })
    doc.edit('Add', addNode(newEffect('delay', {}, 'd'), { startOf: 't' }))
    doc.edit('Add', addNode(newEffect('filter', {}, 'f'), { after: 'd' }))
    doc.edit('Set', setParam('d', 'feedback', 0.7))
    for (let i = 0; i < 3; i++) doc.undo()
    for (let i = 0; i < 2; i++) doc.redo()
    expect(mirror).toEqual(doc.project)
  })
  it('keeps the last five hundred steps', async () => {
    const doc = await opened()
    for (let i = 0; i < 520; i++) doc.edit(`Step ${i}`, setParam('t', 'level', -(i % 60) - 0.5))
    expect(doc.undoSteps).toHaveLength(500)
    expect([doc.undoSteps[0]?.label, doc.undoLabel]).toEqual(['Step 20', 'Step 519'])
  })
  it('saves within a second of the last change, and once for many', async () => {
    const doc = await opened()
    for (let i = 0; i < 5; i++) doc.edit('Set', setParam('t', 'level', -i - 1))
    expect(doc.saveState).toBe('unsaved')
    await vi.advanceTimersByTimeAsync(1000)
    expect(doc.saveState).toBe('saved')
    // timers of the tests before may still be on their way
    const own = saved.mock.calls.filter(([m]) => m.project.id === doc.project?.id)
    expect(own).toHaveLength(1)
    expect(own[0]?.[0].project).toBe(doc.project)
    expect(own[0]?.[0].undo).toHaveLength(5)
  })
  it('saves while edits go on: none is ever older than a second and not saved, in mid-gesture too', async () => {
    const doc = await opened()
    const drag = doc.gesture('Drag')
    for (let i = 0; i < 62; i++) {
      if (i % 2) drag.edit(setParam('t', 'level', -i * 0.37 - 1))
      else doc.edit('Set', setParam('t', 'pan', i / 70))
      await vi.advanceTimersByTimeAsync(300)
      const last = saved.mock.calls[saved.mock.calls.length - 1]?.[0].project
      if (i > 3) expect(Math.abs((last?.tracks[0]?.params.pan ?? 0) - i / 70)).toBeLessThan(4 / 70)
    }
    // the drag, not ended yet, is a step of what was saved, and leads back
    const { undo } = saved.mock.calls[saved.mock.calls.length - 1]![0]
    expect(undo[undo.length - 1]?.label).toBe('Drag')
  })
  it('pairs the document with its own history, however slowly it is written', async () => {
    const doc = await opened()
    saved.mockImplementation(
      () =>
        new Promise((done) => {
          setTimeout(done, 1700)
        }),
    )
    for (let i = 1; i <= 20; i++) {
      doc.edit(`Step ${i}`, setParam('t', 'level', -i))
      await vi.advanceTimersByTimeAsync(230)
    }
    await vi.advanceTimersByTimeAsync(5000)
    for (const [{ project, undo }] of saved.mock.calls)
      expect(undo[undo.length - 1]?.label).toBe(`Step ${-project.tracks[0]!.params.level!}`)
    expect(saved.mock.calls[saved.mock.calls.length - 1]![0].project).toBe(doc.project)
  })
  it('says so where the browser has no room or does not let it save, and goes on in memory', async () => {
    for (const [error, words] of [
      [new DOMException('full', 'QuotaExceededError'), 'storage is full'],
      [new Error('private'), 'before you close this tab'],
    ] as const) {
      setActivePinia(createPinia())
      const doc = await opened()
      saved.mockRejectedValueOnce(error)
      doc.edit('Set', setParam('t', 'level', -9))
      await doc.save()
      expect(doc.saveState).toBe('memory only')
      expect(doc.trouble).toContain(words)
      doc.edit('Set', setParam('t', 'level', -10))
      expect(level(doc)).toBe(-10)
    }
  })
  it('tries again after a save that failed, and says that it is saved only when it is', async () => {
    const doc = await opened()
    saved
      .mockRejectedValueOnce(new DOMException('full', 'QuotaExceededError'))
      .mockRejectedValueOnce(new DOMException('full', 'QuotaExceededError'))
    doc.edit('Set', setParam('t', 'level', -9))
    await vi.advanceTimersByTimeAsync(500)
    expect([doc.saveState, saved.mock.calls.length]).toEqual(['memory only', 1])
    expect(doc.trouble).toContain('storage is full')
    doc.edit('Set', setParam('t', 'level', -11))
    await vi.advanceTimersByTimeAsync(3900)
    expect([doc.saveState, saved.mock.calls.length]).toEqual(['memory only', 2])
    await vi.advanceTimersByTimeAsync(4100)
    expect([doc.saveState, saved.mock.calls.length, doc.trouble]).toEqual(['saved', 3, ''])
    expect(saved.mock.calls[2]?.[0].project).toBe(doc.project)
  })
  it('is only to be looked at where another tab has the right to edit it', async () => {
    vi.stubGlobal('navigator', {
      locks: {
        request: (_: string, __: object, granted: (lock: null) => void) => Promise.resolve(granted(null)),
      },
    })
    const doc = await opened()
    vi.stubGlobal('navigator', {})
    const before = doc.project
    expect(doc.saveState).toBe('read only')
    doc.edit('Set', setParam('t', 'level', -9))
    expect(doc.project).toBe(before)
    expect(doc.trouble).toContain('another tab')
    await doc.save()
    expect(saved).not.toHaveBeenCalled()
  })
})
