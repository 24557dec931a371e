import { describe, expect, it, vi } from 'vitest'
import { newProject } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import type { Sound } from '../contract/messages'
import { Sounds } from '../services/sounds'
import { saveSound } from '../storage/database'
import { loadLong } from '../storage/long-sounds'
import { inEvery } from './in-every'

vi.mock('../storage/database', () => ({ namesInTab: () => [], saveSound: vi.fn(() => Promise.resolve()) }))
vi.mock('../storage/long-sounds', () => ({ loadLong: vi.fn(() => Promise.resolve(undefined)) }))
vi.stubGlobal('fetch', () => Promise.resolve({ ok: true, json: () => Promise.resolve({ sounds: [] }) }))

const sound = (hash: string, sampleRate = 48_000): Sound => ({
  hash,
  sampleRate,
  channels: [new Float32Array(9)],
})
const using = (...hashes: string[]): Project => ({
  ...newProject('Skerries'),
  id: 'p',
  audio: Object.fromEntries(hashes.map((h) => [h, { name: h, frames: 9, channels: 1, sampleRate: 48_000 }])),
})

function rig(project: Project) {
  const there = new Map<string, Sound>()
  const host = {
    sound: (h: string) => there.get(h),
    sounds: {
      get hashes() {
        return [...there.keys()]
      },
    },
    addSounds: (list: Sound[]) => {
      for (const s of list) there.set(s.hash, s)
    },
    forget: (list: string[]) => {
      for (const h of list) there.delete(h)
    },
  }
  const doc = { project, trouble: '', unkeptSounds: 0 }
  const bench: { bringing: unknown; standing: unknown } = { bringing: null, standing: null }
  const heavy = {
    call: {
      takeSound: vi.fn((channels: Float32Array[], _: number, to: number) =>
        Promise.resolve({ hash: 'converted', sampleRate: to, channels }),
      ),
    },
  }
  return {
    there,
    doc,
    bench,
    heavy,
    sounds: new Sounds(doc as never, inEvery(bench) as never, host as never, heavy as never, {} as never),
  }
}

describe('the sounds of a project', () => {
  it('are let go of when nothing plays them, but for the last ones, and brought back when a step does', async () => {
    const { there, doc, sounds } = rig(using('a'))
    for (let i = 0; i < 30; i++) there.set(`s${i}`, sound(`s${i}`))
    there.set('a', sound('a'))
    sounds.settle(doc.project)
    expect([...there.keys()]).toEqual([...Array.from({ length: 8 }, (_, i) => `s${i + 22}`), 'a'])
    vi.mocked(loadLong).mockImplementation((h) => Promise.resolve(sound(h)))
    doc.project = using('a', 's3')
    sounds.settle(doc.project)
    await sounds.there
    expect(there.has('s3')).toBe(true)
  })
  it('of another rate are converted, and keep the name that the project knows them by', async () => {
    vi.mocked(loadLong).mockImplementation((h) => Promise.resolve(sound(h, 44_100)))
    const { there, heavy, sounds } = rig(using('a'))
    await sounds.bring()
    expect([there.get('a')?.sampleRate, heavy.call.takeSound.mock.calls.length]).toEqual([48_000, 1])
  })
  it('that are missing are named, a few of many, and none is asked for that the server does not have', async () => {
    vi.mocked(loadLong).mockResolvedValue(undefined)
    const { doc, sounds } = rig(using(...Array.from({ length: 40 }, (_, i) => `gone${i}`)))
    await sounds.bring()
    expect(doc.trouble).toBe(
      'Missing sounds: gone0, gone1, gone2, gone3, gone4 and 35 more. Drop the files here to restore them.',
    )
  })
  it('that were missing are known when their file is dropped, which is then no new sound', async () => {
    vi.mocked(loadLong).mockResolvedValue(undefined)
    const { sounds, heavy, there } = rig(using('a'))
    await sounds.bring()
    Object.assign(heavy.call, {
      readSound: (_: number, __: Blob, rate: number) => Promise.resolve(sound('a', rate)),
    })
    const wav = new File([new Uint8Array([0x52, 0x49, 0x46, 0x46, 0, 0, 0, 0])], 'a.wav')
    expect((await sounds.readFile(wav))?.isBack).toBe(true)
    expect(there.has('a')).toBe(true)
    expect((await sounds.readFile(wav))?.isBack).toBe(false)
  })
  it('that could not be kept are said to be so, are tried again, and are there meanwhile', async () => {
    vi.useFakeTimers()
    vi.mocked(saveSound).mockRejectedValueOnce(new DOMException('full', 'QuotaExceededError'))
    const { there, doc, sounds } = rig(using('a'))
    await sounds.take([sound('a')])
    expect(doc.unkeptSounds).toBe(1)
    there.clear()
    await sounds.bring()
    expect(there.has('a')).toBe(true)
    await vi.advanceTimersByTimeAsync(4100)
    expect(doc.unkeptSounds).toBe(0)
    vi.useRealTimers()
  })
  it('are not swept while what was removed can still be taken back', async () => {
    vi.useFakeTimers()
    const { sounds, heavy, bench, doc } = rig(using('a'))
    const sweep = vi.fn(() => Promise.resolve(false))
    Object.assign(heavy.call, { sweep })
    Object.assign(doc, { save: () => Promise.resolve() })
    bench.standing = { text: 'gone' }
    sounds.settle(doc.project)
    await vi.advanceTimersByTimeAsync(20_000)
    expect(sweep).not.toHaveBeenCalled()
    bench.standing = null
    await vi.advanceTimersByTimeAsync(4100)
    expect(sweep).toHaveBeenCalledWith(['a'], ['a'])
    vi.useRealTimers()
  })
})
