/**
 * Core and the code of exported chains as small modules of text, from which the app puts a chain’s module
 * together. One JSON file, which the app loads when a chain is exported.
 */
import { init, parse } from 'es-module-lexer'
import { buildSync, transformSync } from 'esbuild'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join, posix } from 'node:path'
import { root } from './deps.mjs'

/** Where each room of the modules has its sources. */
const rooms = { core: 'core/src', app: 'app' }
const ENTRY = 'app/chain-module/module'

/** @returns {Promise<import('../core/src/chain-module/bundle').ChainParts>} */
export async function chainParts() {
  await init
  const lists = {
    effects: await placesOf('effects'),
    modulators: await placesOf('modulators'),
    sources: await placesOf('sources'),
  }
  const code = {}
  const waiting = [
    ENTRY,
    'core/chain-module/feed',
    ...Object.values(lists).flatMap((places) => Object.values(places).map((p) => p.file)),
  ]
  while (waiting.length) {
    const id = waiting.pop()
    if (code[id] !== undefined) continue
    const [room, ...way] = id.split('/')
    const source = readFileSync(join(root, rooms[room], `${way.join('/')}.ts`), 'utf8')
    code[id] = transformSync(source, {
      loader: 'ts',
      format: 'esm',
      target: 'es2022',
      minify: true,
      legalComments: 'none',
      charset: 'utf8',
    }).code
    for (const { specifier: asked } of parse(code[id])[0]) {
      // import.meta
      if (!asked) continue
      if (asked.startsWith('@oleaje/core/')) waiting.push(`core/${asked.slice('@oleaje/core/'.length)}`)
      else if (asked.startsWith('.')) waiting.push(posix.join(posix.dirname(id), asked))
    }
  }
  // the lists are made anew for each chain
  for (const name of Object.keys(lists)) delete code[`core/${name}/built-in`]
  return { code, ...lists, page: readFileSync(join(root, 'app/chain-module/page.html'), 'utf8') }
}

/** File and name of each built-in part by its id, from the list itself. */
async function placesOf(name) {
  const folder = join(root, `core/src/${name}`)
  const source = readFileSync(join(folder, 'built-in.ts'), 'utf8')
  const imports = [...source.matchAll(/import \{ (\w+) \} from '\.\/([\w-]+)'/g)]
  const { outputFiles } = buildSync({
    stdin: {
      contents: `${imports.map(([line]) => line).join('\n')}
export const ids = [${imports.map(([, part]) => `${part}.id`).join(', ')}]`,
      resolveDir: folder,
      loader: 'ts',
    },
    bundle: true,
    write: false,
    format: 'esm',
    platform: 'node',
    target: 'node20',
  })
  const text = Buffer.from(outputFiles[0].contents).toString('base64')
  const { ids } = await import(`data:text/javascript;base64,${text}`)
  return Object.fromEntries(
    imports.map(([, part, file], i) => [ids[i], { file: `core/${name}/${file}`, name: part }]),
  )
}

/** Writes the parts to a folder that is served. */
export async function writeChainParts(folder) {
  const text = JSON.stringify(await chainParts())
  const file = join(root, folder, 'chain-parts.json')
  mkdirSync(dirname(file), { recursive: true })
  writeFileSync(file, text)
}
