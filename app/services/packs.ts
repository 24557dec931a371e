import type { Preset } from '@oleaje/core/project/preset'
import { fileSave } from 'browser-fs-access'
import type { useDocument } from '../stores/document'
import type { Stores } from '../stores/index'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { Shelf } from './shelf'
import type { Sounds } from './sounds'

/** Presets in and out: one as JSON, several as a pack. */
export class Packs {
  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices'>,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
    private readonly shelf: Shelf,
  ) {}

  /** Saves presets as one zip file, with the sounds that they work with. */
  async save(name: string, presets: readonly Preset[]): Promise<void> {
    try {
      const hashes = new Set(presets.flatMap((p) => Object.keys(p.audio)))
      const sounds = await Promise.all([...hashes].map((hash) => this.sounds.read(hash)))
      const copies = JSON.parse(JSON.stringify(presets)) as Preset[]
      await fileSave(await this.heavy.call.writePack(name, copies, sounds), {
        fileName: `${name}.zip`,
        extensions: ['.zip'],
        description: 'Oleaje pack',
      })
    } catch (error) {
      if (error instanceof DOMException && error.name === 'AbortError') return
      this.doc.trouble = `The pack was not saved: ${sentence(error)}`
    }
  }

  /** Saves one preset as JSON. */
  async saveOne(preset: Preset): Promise<void> {
    const blob = new Blob([JSON.stringify(preset, null, 1)], { type: 'application/json' })
    await fileSave(blob, {
      fileName: `${preset.name}.json`,
      extensions: ['.json'],
      description: 'Oleaje preset',
    }).catch(() => {})
  }

  /** Keeps what a pack holds, and says what of it could not be read. */
  async take(file: Blob): Promise<void> {
    const { name, presets, sounds, refused } = await this.heavy.call.readPack(file)
    await this.sounds.take(sounds)
    for (const preset of presets) await this.shelf.keep(preset)
    this.stores.notices.spoken = `${presets.length} ${presets.length === 1 ? 'preset' : 'presets'} of “${name}” ${presets.length === 1 ? 'is' : 'are'} on the shelf.`
    if (refused.length)
      this.doc.trouble = `${refused.length} of the pack “${name}” could not be read: ${refused.slice(0, 2).join(' ')}`
  }
}
