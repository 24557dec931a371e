import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { menu, open, project, serious } from './app'
import { inBarePage, served, throughChain } from './bare-page'
import { expect, sharing as test } from './fixtures'

/** Exports the chain of the selected track and unpacks it into a folder. */
async function exported(page: Page): Promise<{ folder: string; files: string[]; size: number }> {
  await menu(page, 'Actions for Fog pad', 'Export for web pages…', '[data-track=pad]')
  const dialog = page.getByRole('dialog', { name: 'Export for web pages' })
  expect(await serious(page, { within: '[role=dialog]' })).toEqual([])
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Fog bank')
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60_000 }),
    dialog.getByRole('button', { name: 'Export', exact: true }).click(),
  ])
  await expect(dialog.getByRole('status')).toHaveText(/^Saved fog-bank\.zip\. The module has \d+ kB\.$/)
  const files = unzipSync(new Uint8Array(readFileSync(await download.path())))
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-export-'))
  for (const [name, bytes] of Object.entries(files)) writeFileSync(join(folder, name), bytes)
  return { folder, files: Object.keys(files).sort(), size: files['fog-bank.js']!.length }
}

test('a chain is exported as a module that a bare page plays sample for sample, with macros and types', async ({
  page,
  context,
}) => {
  test.slow()
  await open(page)
  const whole = await project(page)
  const { folder, files, size } = await exported(page)
  expect(files).toEqual(['fog-bank.d.ts', 'fog-bank.js', 'index.html'])
  expect(size).toBeLessThan(400_000)
  const { url, close } = await served(folder)
  const bare = await context.newPage()
  const troubles: string[] = []
  bare.on('pageerror', (e) => troubles.push(e.message))

  // the demonstration page plays
  await bare.goto(url)
  await bare.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(bare.locator('#says')).toHaveText(/^Latency of the chain: [\d.]+ ms$/)
  await expect(bare.getByRole('slider')).toHaveCount(
    whole.tracks.find((t) => t.id === 'pad')!.modulators.filter((m) => m.type === 'macro').length,
  )

  // noise through the module, offline, and through the engine here
  const { left } = await bare.evaluate<{ left: number[] }>(inBarePage('fog-bank.js', null))
  const wanted = throughChain(whole, 'pad')
  expect(Math.max(...wanted.map(Math.abs))).toBeGreaterThan(0.01)
  expect(left.length).toBeGreaterThan(47_000)
  expect(left.filter((v, i) => v !== wanted[i])).toHaveLength(0)
  const moved = (await bare.evaluate<{ left: number[] }>(inBarePage('fog-bank.js', 1))).left
  expect(moved.filter((v, i) => v !== left[i]).length).toBeGreaterThan(left.length / 2)
  expect(troubles).toEqual([])
  close()

  // a foreign TypeScript project
  writeFileSync(
    join(folder, 'use.ts'),
    `import { createChain, macros, type ChainNode } from './fog-bank.js'
const context = new AudioContext()
const chain: ChainNode = await createChain(context, { tempo: 96 })
chain.connect(context.destination)
for (const { key } of macros) chain.macros[key].setValueAtTime(0.5, context.currentTime + chain.latency)
chain.note(60)
// @ts-expect-error there is no such macro
chain.macros['no such macro'].value = 1
`,
  )
  mkdirSync(join(folder, 'out'))
  const checked = spawnSync(
    process.execPath,
    [
      join(process.cwd(), 'node_modules/typescript/bin/tsc'),
      ...[
        '--noEmit',
        '--strict',
        '--target',
        'es2022',
        '--module',
        'es2022',
        '--moduleResolution',
        'bundler',
      ],
      ...['--lib', 'es2022,dom', 'use.ts'],
    ],
    { cwd: folder, encoding: 'utf8' },
  )
  expect(checked.stdout).toBe('')
})
