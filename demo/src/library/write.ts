/**
 * Balances and measures the chains of the library and writes them to demo/assets/library.json, with their
 * list in docs/library.md. Run after a chain or an effect has changed.
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { format, resolveConfig } from 'prettier'
import { audioOfPhrase } from './assets'
import { balanced, figuresOf } from './balance'
import { libraryChains } from './index'
import { libraryText } from './text'
import type { ShippedChain } from './shipped-chain'

const root = process.env.OLEAJE_ROOT ?? '.'
const sounds = audioOfPhrase((file) => readFileSync(join(root, 'demo/assets', `${file}.wav`)))
const chains = libraryChains.map((chain): ShippedChain => {
  const preset = balanced(chain, sounds)
  const { phrase, louder, truePeak, point } = figuresOf(chain, preset, sounds)
  console.log(`${preset.name}: ${point}`)
  return {
    preset,
    phrase,
    ...(chain.job ? { job: chain.job } : {}),
    point: chain.point,
    measured: { louder: Math.round(louder * 10) / 10, truePeak: Math.round(truePeak * 10) / 10, point },
    ...(chain.loudness ? { loudness: chain.loudness } : {}),
  }
})
writeFileSync(
  join(root, 'demo/assets/library.json'),
  `[\n${chains.map((c) => JSON.stringify(c)).join(',\n')}\n]\n`,
)
const page = join(root, 'docs/library.md')
writeFileSync(page, await format(libraryText(chains), { ...(await resolveConfig(page)), parser: 'markdown' }))
