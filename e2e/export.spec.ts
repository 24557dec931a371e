import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { extname, join } from 'node:path'
import type { AudioData } from '@oleaje/core/contract/audio'
import { newSource } from '@oleaje/core/project/new'
import { trackAlone } from '@oleaje/core/project/track-alone'
import { planRender, render } from '@oleaje/core/render/render'
import type { Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { menu, open, project, serious } from './app'
import { expect, sharing as test } from './fixtures'

/** Serves a folder as any plain web server does, without headers of isolation. */
async function served(folder: string): Promise<{ url: string; close: () => void }> {
  const kinds: Record<string, string> = { '.html': 'text/html', '.js': 'text/javascript' }
  const server = createServer((asked, answer) => {
    const file = join(folder, asked.url === '/' ? 'index.html' : (asked.url ?? '').split('?')[0]!)
    try {
      const bytes = readFileSync(file)
      answer.writeHead(200, { 'content-type': kinds[extname(file)] ?? 'application/octet-stream' })
      answer.end(bytes)
    } catch {
      answer.writeHead(404).end()
    }
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as { port: number }
  return { url: `http://127.0.0.1:${port}/`, close: () => server.close() }
}

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
  const frames = 48_000
  const noise = new Float32Array(frames)
  let seed = 11
  for (let i = 0; i < frames; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) | 0
    noise[i] = (seed / 2147483648) * 0.3
  }
  const play = (macro: number | null): Promise<{ left: number[]; latency: number }> =>
    bare.evaluate(
      async ([samples, at]) => {
        const { createChain, macros } = (await import('/fog-bank.js' as string)) as {
          createChain: (
            c: BaseAudioContext,
          ) => Promise<AudioWorkletNode & { latency: number; macros: Record<string, AudioParam> }>
          macros: { key: string }[]
        }
        const context = new OfflineAudioContext(2, samples.length, 48_000)
        const chain = await createChain(context)
        const buffer = context.createBuffer(1, samples.length, 48_000)
        buffer.copyToChannel(Float32Array.from(samples), 0)
        const source = new AudioBufferSourceNode(context, { buffer })
        source.connect(chain).connect(context.destination)
        source.start()
        if (at !== null) for (const { key } of macros) chain.macros[key]!.value = at
        const out = await context.startRendering()
        return { left: Array.from(out.getChannelData(0)), latency: Math.round(chain.latency * 48_000) }
      },
      [Array.from(noise), macro] as const,
    )
  const { left, latency } = await play(null)
  const pad = whole.tracks.find((t) => t.id === 'pad')!
  const own = { ...pad, source: { ...newSource('loop', {}, 'x', 'pad-feed') }, line: null }
  const alone = {
    ...trackAlone(whole, own),
    audio: { x: { name: 'x', frames, channels: 1, sampleRate: 48_000 } },
  }
  const audio: AudioData = { sampleRate: 48_000, channels: [noise] }
  const wanted = new Float32Array(frames)
  let at = 0
  for (const { channels, done } of render(planRender(alone, { from: 0, to: 1, tail: 0 }), () => audio)) {
    wanted.set(channels[0].subarray(0, done - at), at)
    at = done
  }
  let different = 0
  for (let i = 0; i + latency < frames; i++) if (left[i + latency] !== wanted[i]) different++
  expect(Math.max(...wanted.map(Math.abs))).toBeGreaterThan(0.01)
  expect(different).toBe(0)
  const moved = (await play(1)).left
  expect(moved.filter((v, i) => v !== left[i]).length).toBeGreaterThan(frames / 2)
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
