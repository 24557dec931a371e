/**
 * The licences of everything that ships to the browser, collected while the app is built and written beside
 * it.
 */
import { existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import license from 'rollup-plugin-license'
import { root } from './deps.mjs'
import { isAllowed } from './licences.mjs'

/** Packages that reach the browser as files and not as modules. */
const asFiles = ['@fontsource/ibm-plex-sans-condensed', '@fontsource/newsreader', 'tailwindcss']

/** Libraries that are compiled to WebAssembly inside a package. */
const compiled = {
  'mpg123-decoder':
    'Holds libmpg123 as WebAssembly, © the mpg123 project, under LGPL-2.1-or-later; source: https://mpg123.org.',
  'opus-decoder':
    'Holds libopus as WebAssembly, © Xiph.Org and others, under BSD-3-Clause; source: https://opus-codec.org.',
  'ogg-opus-decoder':
    'Holds libopus as WebAssembly, © Xiph.Org and others, under BSD-3-Clause; source: https://opus-codec.org.',
  '@wasm-audio-decoders/flac':
    'Holds libFLAC as WebAssembly, © Xiph.Org, under BSD-3-Clause; source: https://xiph.org/flac.',
  '@wasm-audio-decoders/ogg-vorbis':
    'Holds libvorbis and libogg as WebAssembly, © Xiph.Org, under BSD-3-Clause; source: https://xiph.org/vorbis.',
}

const found = new Map()

const author = (a) => (typeof a === 'string' ? a : (a?.name ?? ''))

function note({ name, version, license: licence, author: by, homepage, text }) {
  found.set(name, {
    name,
    version,
    licence,
    by: author(by),
    home: homepage ?? '',
    text: text ?? textOf(name),
    compiled: compiled[name] ?? '',
  })
}

/** The licence file of an installed package; empty where it has none. */
function textOf(name) {
  const folder = join(root, 'node_modules', name)
  const file = existsSync(folder) && readdirSync(folder).find((f) => /^(licen[cs]e|copying|ofl)/i.test(f))
  return file ? readFileSync(join(folder, file), 'utf8') : ''
}

/** The plugin of a build (page, worker or worklet) that notes which packages are in it. */
export const collectNotices = () =>
  license({
    thirdParty: (packages) => {
      for (const p of packages) note({ ...p, text: p.licenseText })
    },
  })

/** Writes `notices.json` into a folder. @throws Error where a licence is not on the list */
export function writeNotices(folder) {
  for (const name of asFiles)
    note(JSON.parse(readFileSync(join(root, 'node_modules', name, 'package.json'), 'utf8')))
  const all = [...found.values()].sort((a, b) => a.name.localeCompare(b.name))
  const wrong = all.filter((p) => !isAllowed(p.licence))
  if (wrong.length)
    throw new Error(
      `Not on the list of licences: ${wrong.map((p) => `${p.name} (${p.licence})`).join(', ')}.`,
    )
  mkdirSync(join(root, folder), { recursive: true })
  writeFileSync(join(root, folder, 'notices.json'), `${JSON.stringify(all, null, 1)}\n`)
}
