// Assembles the SIMD kernels (core/src/dsp/simd/*.wat) into TypeScript files that carry their bytes.
// With --check, only compares.
import { readFileSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ensureDependencies, fail, root, say } from './deps.mjs'

ensureDependencies()
const wabt = await (await import('wabt')).default()
const folder = join(root, 'core/src/dsp/simd')
for (const name of readdirSync(folder).filter((n) => n.endsWith('.wat'))) {
  const { buffer } = wabt
    .parseWat(name, readFileSync(join(folder, name), 'utf8'), { simd: true })
    .toBinary({})
  const constant = `${name.replace('.wat', '').replace(/-(\w)/g, (_, letter) => letter.toUpperCase())}Bytes`
  const text = `/** ${name}, assembled by scripts/wasm.mjs. */\nexport const ${constant} = '${Buffer.from(buffer).toString('base64')}'\n`
  const out = join(folder, name.replace(/\.wat$/, '.wasm.ts'))
  if (process.argv.includes('--check')) {
    if (readFileSync(out, 'utf8') !== text)
      fail(`${name} has changed since it was assembled; run node scripts/wasm.mjs.`)
  } else {
    writeFileSync(out, text)
    say(`${name}: ${buffer.length} bytes`)
  }
}
