import { type ChainForm, chainExport } from '@oleaje/core/chain-module/chain-export'
import { fileSave } from 'browser-fs-access'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import type { Sounds } from './sounds'

/** Bytes of samples that a module may hold; larger ones would take pages long to load. */
const MOST_SOUND = 20_000_000

/** Exports of chains as modules for web pages. */
export class ChainExporting {
  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
    private readonly base: string,
  ) {}

  /** Tracks that the chain listens to and that a module would lack. */
  missed(track: string, form: ChainForm): readonly string[] {
    const { project } = this.doc
    return project ? chainExport(project, track, form, '').missed : []
  }

  /**
   * Puts a module together and saves it with its types and a page.
   * @returns a sentence that says what was saved
   */
  async save(track: string, form: ChainForm, name: string): Promise<string> {
    const { project } = this.doc
    if (!project) return ''
    const chain = chainExport(project, track, form, name)
    const bytes = chain.sounds.reduce((sum, hash) => {
      const { frames = 0, channels = 0 } = project.audio[hash] ?? {}
      return sum + 4 * frames * channels
    }, 0)
    if (bytes > MOST_SOUND)
      throw new Error(
        `The sounds of this chain have ${(bytes / 1e6).toFixed(0)} MB; a module takes 20 MB at most.`,
      )
    await this.sounds.there
    const copy = JSON.parse(JSON.stringify(project)) as typeof project
    const parts = new URL(`${this.base}chain-parts.json`, location.href).href
    const made = await this.heavy.call.chainModule(
      copy,
      this.sounds.named(chain.sounds),
      track,
      form,
      name,
      parts,
    )
    await fileSave(made.zip, {
      fileName: `${made.name}.zip`,
      extensions: ['.zip'],
      description: 'Web module',
    })
    return `Saved ${made.name}.zip. The module has ${Math.round(made.size / 1000)} kB.`
  }
}
