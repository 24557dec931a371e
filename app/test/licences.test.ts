import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { isAllowed } from '../../scripts/licences.mjs'

const root = join(import.meta.dirname, '../..')
const lock = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8')) as {
  packages: Record<string, { license?: string; dev?: boolean; dependencies?: Record<string, string> }>
}

/** All packages that the workspaces reach, as installed. */
function shipped(): [string, string | undefined][] {
  const found = new Map<string, string | undefined>()
  const visit = (name: string): void => {
    const entry = lock.packages[`node_modules/${name}`]
    if (!entry || found.has(name)) return
    found.set(name, entry.license)
    for (const next of Object.keys(entry.dependencies ?? {})) visit(next)
  }
  for (const place of ['core', 'cli'])
    for (const name of Object.keys(lock.packages[place]?.dependencies ?? {})) visit(name)
  return [...found].filter(([name]) => !name.startsWith('@oleaje/'))
}

describe('licences', () => {
  it('of all that core and the command line reach are on the list', () => {
    const all = shipped()
    expect(all.length).toBeGreaterThan(8)
    expect(all.filter(([, licence]) => !isAllowed(licence))).toEqual([])
  })

  it('are read with their choices, and one that is not listed is refused', () => {
    expect(isAllowed('(MIT OR GPL-2.0)')).toBe(true)
    expect(isAllowed('MIT AND GPL-2.0')).toBe(false)
    for (const none of ['GPL-3.0-only', 'UNLICENSED', undefined, ''])
      expect(isAllowed(none), String(none)).toBe(false)
  })
})
