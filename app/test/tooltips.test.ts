import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { createPinia, setActivePinia } from 'pinia'
import { describe, expect, it, vi } from 'vitest'
import { actions } from '../commands/actions'
import { useStores } from '../stores/index'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})
vi.stubGlobal('document', { activeElement: null, querySelector: () => null })

const app = join(import.meta.dirname, '..')
const sources = (readdirSync(app, { recursive: true }) as string[])
  .filter((f) => f.endsWith('.vue'))
  .map((f) => [f, readFileSync(join(app, f), 'utf8')] as const)
/** Keys that belong to what has the focus, and so to no action. */
const OWN = new Set(['Enter', 'Delete', 'Esc', 'Space'])

describe('a key that a tooltip promises', () => {
  setActivePinia(createPinia())
  const keys = new Set(actions(useStores() as never).flatMap((a) => a.keys.split(/, | · /)))
  const promised = sources.flatMap(([file, text]) =>
    [...text.matchAll(/title="([^"]*)"/g)].flatMap(([, title = '']) => {
      const inside = [
        ...title.matchAll(/\(((?:Ctrl\+|Shift\+)*(?:[A-Z?]|Esc|Enter|Delete|Space))(?: [^)]*)?\)/g),
      ].map((m) => m[1] ?? '')
      return (/^(?:Ctrl\+|Shift\+)*(?:[A-Z]|Esc)$/.test(title) ? [title] : inside).map(
        (key) => [key, `${file}: ${title}`] as const,
      )
    }),
  )
  it('is one that is kept', () => {
    expect(promised.length).toBeGreaterThan(25)
    expect(promised.filter(([key]) => !keys.has(key) && !OWN.has(key)).map(([, where]) => where)).toEqual([])
  })
})
