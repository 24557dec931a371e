import { existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Driver, chromium, firefox, webkit } from './driver'
import { type Seen, journey, renderedSum } from './journey'

/**
 * The journey in five browsers: `main URL OLDER_CHROMIUM [NAME …]`. Writes docs/browsers.md where all five
 * were asked for.
 */
const root = process.env.OLEAJE_ROOT ?? process.cwd()
const [url = '', older = '', ...only] = process.argv.slice(2)
const current =
  [process.env.CHROMIUM_PATH ?? '', '/usr/bin/chromium', '/usr/lib/chromium/chromium'].find((p) =>
    existsSync(p),
  ) ?? ''
const browsers: Record<string, () => Promise<Driver>> = {
  'chromium': () => chromium(current),
  'chromium-older': () => chromium(older),
  'firefox': () => firefox('/usr/bin/firefox-esr'),
  'webkit': () => webkit(true),
  'webkit-no-shared-memory': () => webkit(false),
}

const rows: { version: string; seen: Seen[]; failed: string }[] = []
const wanted = await renderedSum(join(root, 'demo/assets'))
for (const [name, open] of Object.entries(browsers)) {
  if (only.length > 0 && !only.includes(name)) continue
  const row = { version: name, seen: [] as Seen[], failed: '' }
  rows.push(row)
  let driver: Driver | undefined
  try {
    driver = await open()
    row.version = driver.version
    console.log(`· ${driver.version}`)
    await journey(driver, url, wanted, (seen) => {
      row.seen.push(seen)
      console.log(`  ✓ ${seen.step}: ${seen.seen}`)
    })
  } catch (error) {
    row.failed = error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)
    console.log(`  ✗ ${row.failed}`)
  } finally {
    await driver?.close().catch(() => {})
  }
}
const failed = rows.filter((r) => r.failed)
if (only.length === 0) {
  const steps = [...new Set(rows.flatMap((r) => r.seen.map((s) => s.step)))]
  const cells = (r: (typeof rows)[number]): string[] =>
    steps.map((step) => r.seen.find((s) => s.step === step)?.seen ?? `✗ ${r.failed}`)
  const table = [
    `| | ${rows.map((r) => r.version).join(' | ')} |`,
    `|---|${rows.map(() => '---|').join('')}`,
    ...steps.map((step, i) => `| ${step} | ${rows.map((r) => cells(r)[i]).join(' | ')} |`),
  ]
  writeFileSync(
    join(root, 'docs/browsers.md'),
    `# Browsers\n\nWritten by \`npm run test:browsers\`. In each browser it opens the demo, plays it and compares four seconds with\nthe render. It then builds a small chain by keys, reloads, imports a WAV file, renders WAV and FLAC, undoes,\nmeasures the chain, and exports it as a module that a bare page plays.\n\n${table.join('\n')}\n`,
  )
}
console.log(`browsers: ${rows.length - failed.length} passed, ${failed.length} failed`)
process.exit(failed.length ? 1 : 0)
