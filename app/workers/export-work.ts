import {
  type Bundler,
  type ChainParts,
  type PackedSound,
  bundleChain,
} from '@oleaje/core/chain-module/bundle'
import { type ChainForm, chainExport, codeName } from '@oleaje/core/chain-module/chain-export'
import { pageOf, typesOf } from '@oleaje/core/chain-module/texts'
import type { Project } from '@oleaje/core/project/schema'
import type { Sound } from '../contract/messages'
import { fileWork } from './file-work'

/** An exported chain: a zip with the module, its types and a page. */
export interface ExportedChain {
  readonly zip: Blob
  readonly name: string
  /** Bytes of the module by itself. */
  readonly size: number
}

/** Chains as modules for web pages. */
export const exportWork = {
  /** @param partsUrl where the parts are that the module is made of */
  async chainModule(
    project: Project,
    sounds: Sound[],
    track: string,
    form: ChainForm,
    name: string,
    partsUrl: string,
  ): Promise<ExportedChain> {
    const chain = chainExport(project, track, form, name)
    const missing = chain.sounds.find((hash) => !sounds.some((s) => s.hash === hash))
    if (missing) throw new Error(`The sound “${project.audio[missing]?.name ?? missing}” is not here.`)
    const parts = await partsFrom(partsUrl)
    const { rollup } = await import('@rollup/browser')
    const packed = sounds
      .filter((s) => chain.sounds.includes(s.hash))
      .map((s) => [s.hash, packedSound(s)] as const)
    const code = await bundleChain(rollup as unknown as Bundler, parts, chain, Object.fromEntries(packed))
    const file = codeName(name) || 'chain'
    const text = (text: string, type: string): Blob => new Blob([text], { type })
    const module = text(code, 'text/javascript')
    const zip = await fileWork.zipOf([
      { name: `${file}.js`, blob: module },
      { name: `${file}.d.ts`, blob: text(typesOf(chain.data), 'text/plain') },
      { name: 'index.html', blob: text(pageOf(chain.data, `${file}.js`, parts.page), 'text/html') },
    ])
    return { zip, name: file, size: module.size }
  },
}

async function partsFrom(url: string): Promise<ChainParts> {
  const answer = await fetch(url).catch(() => null)
  if (!answer?.ok) throw new Error('The parts of the module could not be loaded from the server. Try again.')
  return (await answer.json()) as ChainParts
}

/** The floats of a sound as text. */
function packedSound({ sampleRate, channels }: Sound): PackedSound {
  const packed = channels.map((c) => {
    const bytes = new Uint8Array(c.buffer, c.byteOffset, c.byteLength)
    let text = ''
    // a call takes some ten thousand arguments at most
    for (let at = 0; at < bytes.length; at += 8192)
      text += String.fromCharCode(...bytes.subarray(at, at + 8192))
    return btoa(text)
  })
  return { sampleRate, channels: packed }
}
