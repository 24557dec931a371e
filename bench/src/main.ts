/**
 * `npm run bench [-- --kernels | --chain | --effects] [--json FILE] [--soak [short | middle | long]]`: all
 * benchmarks, those of kernels, the whole chain or effects alone, in the Chromium that the app runs in.
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { build } from 'esbuild'
import { chromium } from 'playwright-core'
import { findChromium, flags } from '../../scripts/chromium.mjs'
import { appFigures } from './app-figures'
import { auditionInApp } from './audition-in-app'
import { cKernels } from './c-programs'
import { editsInApp } from './edits-in-app'
import type * as InPage from './in-page'
import { compareWholeChains } from './whole-chains'

const root = process.env.OLEAJE_ROOT ?? process.cwd()
const args = process.argv.slice(2)
const jsonFile = args.includes('--json') ? args[args.indexOf('--json') + 1] : undefined
const soak = args.includes('--soak')
const buffer = ['middle', 'long'].find((b) => b === args[args.indexOf('--soak') + 1]) ?? 'short'

const bundle = await build({
  entryPoints: [join(root, 'bench/src/in-page.ts')],
  bundle: true,
  format: 'iife',
  write: false,
  target: 'es2022',
  alias: { '@oleaje/core': join(root, 'core/src') },
})
const browser = await chromium.launch({
  executablePath: findChromium(),
  args: [...flags, '--js-flags=--expose-gc'],
})
const page = await browser.newPage()
await page.goto('about:blank')
await page.addScriptTag({ content: bundle.outputFiles[0]?.text ?? '' })

/** Runs one of the functions of in-page.ts there. */
async function call<K extends keyof typeof InPage>(
  name: K,
  ...a: Parameters<(typeof InPage)[K]>
): Promise<Awaited<ReturnType<(typeof InPage)[K]>>> {
  return page.evaluate(
    ([n, list]) =>
      (
        (globalThis as unknown as Record<string, (...x: unknown[]) => unknown>)[n as string] as (
          ...x: unknown[]
        ) => unknown
      )(...(list as unknown[])),
    [name, a] as const,
  ) as never
}

async function wholeChains() {
  const chains = await compareWholeChains(
    join(root, 'bench/src/whole-chain.c'),
    () => call('wholeChainRound'),
    (samples) => call('wholeChainLast', samples),
  )
  const aliases = await call('wholeChainAliases')
  const inC = chains.c ?? null
  table(
    `Whole chain: saturation 4 ×, 5 moving bells, 2 moving delays, compressor; medians of ${chains.rounds} rounds in turn`,
    [
      ['', '× real time', 'aliases 1.2 kHz', 'aliases 5 kHz'],
      ['browser graph', chains.graph.toFixed(1), ...aliases.graph.map((a) => `${a.toFixed(1)} dB`)],
      ['Oleaje', chains.ours.toFixed(1), ...aliases.ours.map((a) => `${a.toFixed(1)} dB`)],
      ['C', inC ? inC.factor.toFixed(1) : 'no compiler', '', ''],
      ['Oleaje to graph', chains.ratio.toFixed(2), '', ''],
      ['C to Oleaje', inC ? inC.ratio.toFixed(2) : '', '', ''],
      ['Oleaje against C, of the sound', inC ? `${inC.apart.toFixed(0)} dB` : '', '', ''],
    ],
  )
  return { ...chains, aliases }
}

const realtime = (ns: number): string => `${Math.round(1e9 / 48_000 / ns)} ×`
const table = (title: string, rows: string[][]): void => {
  const widths = (rows[0] ?? []).map((_, c) => Math.max(...rows.map((r) => (r[c] ?? '').length)))
  console.log(`\n${title}`)
  for (const row of rows)
    console.log(
      `  ${row.map((cell, c) => (c ? cell.padStart(widths[c] ?? 0) : cell.padEnd(widths[c] ?? 0))).join('   ')}`,
    )
}

const kernels = await call('kernelCosts')
const inC = cKernels(join(root, 'bench/src/kernels.c'))
table(
  `Kernels${inC.size ? ', beside the same in C (cc -O3 -march=native)' : '; there is no C compiler here'}`,
  [
    ['', 'ns/sample', 'in C', 'ratio'],
    ...kernels.map((k) => {
      const c = inC.get(k.id)
      return [k.id, k.ns.toFixed(2), c ? c.toFixed(2) : '', c ? (k.ns / c).toFixed(2) : '']
    }),
  ],
)
if (args.includes('--kernels')) {
  await browser.close()
  process.exit(0)
}
if (args.includes('--chain')) {
  await wholeChains()
  await browser.close()
  process.exit(0)
}
const effects = await call('effectCosts')
const effectsInC = cKernels(join(root, 'bench/src/effects.c'))
table('Effects, stereo; beside the same in C (cc -O3 -march=native) as it stands', [
  ['', 'ns/frame', '× real time', 'all moving', '× real time', 'in C', 'ratio'],
  ...effects.map((e) => {
    const c = effectsInC.get(`effect ${e.id}`)
    return [
      e.id,
      e.still.toFixed(1),
      realtime(e.still),
      e.moving.toFixed(1),
      realtime(e.moving),
      c ? c.toFixed(1) : '',
      c ? (e.still / c).toFixed(2) : '',
    ]
  }),
])
if (args.includes('--effects')) {
  await browser.close()
  process.exit(0)
}
const names = ['naive', '2 ×', '4 ×', '8 × (default)']
const aliases = await Promise.all(
  [0, 1, 2, 3].map(async (q) => ({
    quality: names[q] ?? '',
    at1200: await call('driveAliases', 1200, q),
    at5000: await call('driveAliases', 5000, q),
  })),
)
table('Drive: sum of aliases up to 20 kHz, full-scale sine, 18 dB', [
  ['', '1.2 kHz', '5 kHz'],
  ...aliases.map((a) => [a.quality, `${a.at1200.toFixed(1)} dB`, `${a.at5000.toFixed(1)} dB`]),
])
const chain = await wholeChains()
const filter = await call('singleFilter')
table('One modulated filter, stereo', [
  ['', '× real time'],
  ['browser biquad', filter.graph.toFixed(0)],
  ['Oleaje', filter.ours.toFixed(0)],
  ['ratio', filter.ratio.toFixed(2)],
])
const bands = await call('eightBands')
table('EQ of eight bands with moving frequencies, stereo', [
  ['', '× real time'],
  ['browser, eight biquads', bands.graph.toFixed(0)],
  ['Oleaje', bands.ours.toFixed(0)],
  ['ratio', bands.ratio.toFixed(2)],
])
const assets = join(root, 'demo/assets')
const catalogue = JSON.parse(readFileSync(join(assets, 'catalogue.json'), 'utf8')) as {
  sounds: { file: string }[]
}
const wavs = catalogue.sounds.map((s) => readFileSync(join(assets, `${s.file}.wav`)).toString('base64'))
const demo = await call('demoLoad', readFileSync(join(assets, 'night-ferry.json'), 'utf8'), wavs, 20)
table('Demo project, all tracks, blocks of 128', [
  ['share of one core', `${(demo.load * 100).toFixed(1)} %`],
  ['worst block', `${(demo.worst * 100).toFixed(0)} % of its time`],
  ['blocks over their time', `${demo.over} of ${demo.blocks}`],
])
execFileSync('npm', ['run', '--silent', 'build'], { cwd: root, stdio: 'inherit' })
const edits = await editsInApp(browser)
table(
  'Edits of the structure while the demo plays in the app: the worst block until a quarter of a second after, messages included; rounds in which the host took processor time apart',
  [
    [
      '',
      'rounds',
      'worst',
      'median',
      'blocks over by own work',
      'while the thread did not run',
      'in the rounds apart',
    ],
    ...edits.map((e) => [
      e.id,
      String(e.rounds),
      `${(e.worst * 100).toFixed(0)} %`,
      `${(e.median * 100).toFixed(0)} %`,
      String(e.missed),
      String(e.missedAway),
      String(e.missedByHost),
    ]),
  ],
)
const audition = await auditionInApp(browser)
table(`Previews on the Shelf while the demo plays, ${audition.rounds} of them: from the key to the sound`, [
  ['median', 'largest'],
  [`${audition.median.toFixed(0)} ms`, `${audition.largest.toFixed(0)} ms`],
])
const app = await appFigures(browser)
table(
  `Links view with ${app.links} links while the demo plays, longest frames of ${app.rounds} seconds each; those in which the host took processor time apart`,
  [
    ['', 'longest frame', 'in the seconds apart'],
    [
      'scrolling',
      `${app.scroll.own.toFixed(0)} ms`,
      app.scroll.apart > 0 ? `${app.scroll.host.toFixed(0)} ms in ${app.scroll.apart}` : 'none',
    ],
    [
      'editing all at once',
      `${app.edit.own.toFixed(0)} ms`,
      app.edit.apart > 0 ? `${app.edit.host.toFixed(0)} ms in ${app.edit.apart}` : 'none',
    ],
    ['engine', `${(app.load * 100).toFixed(0)} % of a core`, ''],
  ],
)
let soaked: unknown = null
if (soak) soaked = await (await import('./soak')).soak(browser, buffer, table)
await browser.close()
if (jsonFile)
  writeFileSync(
    jsonFile,
    JSON.stringify(
      {
        date: new Date().toISOString(),
        kernels,
        effects,
        aliases,
        chain,
        filter,
        bands,
        demo,
        edits,
        app,
        soak: soaked,
      },
      null,
      2,
    ),
  )
