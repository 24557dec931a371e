import { type Preset, upgraded } from '@oleaje/core/project/preset'
import type { Phrase } from '@oleaje/core/render/phrase'
import { materials } from '@oleaje/core/render/phrase'
import { textHash } from '@oleaje/core/formats/hash'
import { nodesIn } from '@oleaje/core/project/walk'
import { computed as derived, shallowRef } from 'vue'
import { computed } from '../storage/computed'
import type { KeptPreset } from '../storage/database'
import type { Shipped, ShippedChain } from '../storage/shipped'
import { preference } from '../stores/preference'
import type { HeavyWorker } from '../workers/heavy-worker'
import type { SpectrogramPair } from '../workers/spectrogram-picture'
import type { Shelf } from './shelf'
import type { Sounds } from './sounds'

/** Something on the shelf: shipped, or kept in this browser. */
export interface ShelfEntry {
  readonly id: string
  readonly preset: Preset
  readonly shipped: ShippedChain | null
  readonly kept: KeptPreset | null
  /** Words it is found by, beside its name. */
  readonly words: readonly string[]
}

/** Presets that were taken last and are remembered. */
const RECENT = 12
/** Changes where pictures are made another way. */
const PICTURE_VERSION = 1

export const effectsIn = (preset: Preset): string[] => [
  ...new Set([...nodesIn(preset.chain.nodes)].map((n) => (n.kind === 'effect' ? n.type : n.kind))),
]

const entry = (
  id: string,
  preset: Preset,
  shipped: ShippedChain | null,
  kept: KeptPreset | null,
): ShelfEntry => ({
  id,
  preset,
  shipped,
  kept,
  words: [
    ...preset.tags,
    ...preset.materials,
    ...effectsIn(preset),
    ...preset.modulators.map((m) => (m.type === 'macro' ? m.name : m.type)),
    preset.kind,
    shipped?.job ?? '',
  ],
})

/** All that the shelf shows: what ships and what is kept here, with favourites and what was taken last. */
export class ShelfEntries {
  readonly favourites = preference<string[]>('shelf-favourites', [], Array.isArray)
  readonly recent = preference<string[]>('shelf-recent', [], Array.isArray)
  /** Why the shipped part is missing; empty where it is there. */
  readonly trouble = shallowRef('')
  private readonly shipped = shallowRef<readonly ShippedChain[]>([])
  readonly all = derived<readonly ShelfEntry[]>(() => [
    ...this.shelf.items.value.map((k) => entry(k.id, k.preset, null, k)),
    ...this.shipped.value.map((c) => entry(`shipped:${c.preset.name}`, c.preset, c, null)),
  ])

  constructor(
    private readonly shelf: Shelf,
    private readonly ships: Shipped,
    private readonly sounds: Sounds,
    private readonly worker: HeavyWorker,
  ) {}

  async open(): Promise<void> {
    try {
      const chains = await this.ships.library()
      this.shipped.value = chains.map((c) => ({ ...c, preset: upgraded(c.preset) as Preset }))
      this.trouble.value = ''
    } catch {
      this.trouble.value = 'The shipped chains could not be loaded. Reload the page to try again.'
    }
  }

  toggleFavourite(id: string): void {
    const { value } = this.favourites
    this.favourites.value = value.includes(id) ? value.filter((x) => x !== id) : [...value, id]
  }

  noteTaken(id: string): void {
    this.recent.value = [id, ...this.recent.value.filter((x) => x !== id)].slice(0, RECENT)
  }

  /** The phrase that a preset is pictured on. */
  phraseOf({ shipped, preset }: ShelfEntry): Phrase {
    return shipped?.phrase ?? materials.find((m) => preset.materials.includes(m)) ?? 'drums'
  }

  /** Spectrograms of a phrase before and after a preset, as kept or made now. */
  async picture(of: ShelfEntry): Promise<SpectrogramPair> {
    const phrase = this.phraseOf(of)
    const text = JSON.stringify(of.preset)
    return computed(`picture ${PICTURE_VERSION} ${phrase} ${await textHash(text)}`, async () => {
      const hashes = [...(await this.ships.phrase(phrase)), ...Object.keys(of.preset.audio)]
      const sounds = await Promise.all(hashes.map((hash) => this.sounds.read(hash)))
      return this.worker.call.phrasePicture(JSON.parse(text) as Preset, phrase, sounds)
    })
  }
}
