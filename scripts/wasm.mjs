// Compiles the SIMD kernels (core/kernels) into TypeScript files that carry their bytes (core/src/dsp/simd).
// With --check, only compares.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ensureDependencies, fail, root, say } from './deps.mjs'

/** The kernels, each a module of its own; what else lies in the folder is shared by them. */
const kernels = [
  'all-pass-chain',
  'band-stages',
  'convolution',
  'delay-line',
  'feedback-network',
  'gain-computer',
  'half-band',
  'hilbert',
  'loop-strings',
]

ensureDependencies()
const { default: asc } = await import('assemblyscript/asc')
for (const name of kernels) {
  const bytes = await compiled(name)
  const constant = `${name.replace(/-(\w)/g, (_, letter) => letter.toUpperCase())}Bytes`
  const text = `/** core/kernels/${name}.ts, compiled by scripts/wasm.mjs. */\nexport const ${constant} = '${Buffer.from(bytes).toString('base64')}'\n`
  const out = join(root, 'core/src/dsp/simd', `${name}.wasm.ts`)
  if (process.argv.includes('--check')) {
    if (readFileSync(out, 'utf8') !== text)
      fail(`core/kernels/${name}.ts has changed since it was compiled; run node scripts/wasm.mjs.`)
  } else {
    writeFileSync(out, text)
    say(`${name}: ${bytes.length} bytes`)
  }
}

async function compiled(name) {
  let bytes
  const { error, stderr } = await asc.main(
    [
      `${name}.ts`,
      ...['--outFile', 'kernel.wasm'],
      ...['-O3', '--noAssert', '--runtime', 'stub', '--importMemory', '--noExportMemory'],
      ...['--enable', 'simd', '--disableWarning', 'AS112'],
    ],
    {
      readFile: (file, from) => {
        try {
          return readFileSync(join(root, 'core/kernels', from ?? '', file), 'utf8')
        } catch {
          return null
        }
      },
      writeFile: (_, contents) => (bytes = contents),
      listFiles: () => [],
    },
  )
  if (error) fail(`core/kernels/${name}.ts: ${error.message}\n${stderr}`)
  return bytes
}
