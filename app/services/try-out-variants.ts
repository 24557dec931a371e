import { newSource } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { trackOf } from '@oleaje/core/project/walk'
import { soundsOf, sourceDefinition } from '@oleaje/core/sources/index'
import {
  type TriedSound,
  type Variant,
  diceVariants,
  morphVariants,
  orderVariants,
  presetVariants,
  snapshotVariants,
  sourceVariants,
} from '@oleaje/core/variation/variants'
import type { Shipped } from '../storage/shipped'
import type { Dice } from './dice'
import { sentence } from './sentence'
import type { ShelfEntries } from './shelf-entries'
import { type Sounds, refOf } from './sounds'

/** Makes the variants that a sheet of try-outs consists of. */
export class TryOutVariants {
  constructor(
    private readonly sounds: Sounds,
    private readonly ships: Shipped,
    private readonly entries: ShelfEntries,
    private readonly dice: Dice,
  ) {}

  /** Files whose sounds are tried before others. Gives what could not be read, in sentences. */
  async take(files: readonly File[]): Promise<string> {
    const refused: string[] = []
    for (const file of files)
      try {
        const read = await this.sounds.readFile(file)
        if (!read) continue
        const { hash } = read.sound
        this.added = [
          ...this.added,
          { name: read.ref.name, source: newSource('loop', {}, hash), audio: { [hash]: read.ref } },
        ]
      } catch (error) {
        refused.push(`${file.name} could not be read: ${sentence(error)}`)
      }
    return refused.join(' ')
  }
  /** Sounds that were brought to be tried. */
  private added: readonly TriedSound[] = []

  /** Variants of a track, the first of which is mostly the track as it is. */
  async of(kind: TryOutKind, project: Project, id: string, count: number, seed: number): Promise<Variant[]> {
    const track = trackOf(project, id)
    if (!track) return []
    switch (kind) {
      case 'dice':
        return diceVariants(id, count, seed, this.dice.amount.value, this.dice.kinds.value)
      case 'orders':
        return orderVariants(project, id, count, seed)
      case 'snapshots':
        return snapshotVariants(track)
      case 'morph':
        return morphVariants(track, count)
      case 'shipped': {
        await this.entries.open()
        const all = this.entries.all.value.filter((e) => e.shipped)
        const first = all.length ? seed % all.length : 0
        return presetVariants(
          id,
          Array.from(
            { length: Math.min(count - 1, all.length) },
            (_, i) => all[(first + 7 * i) % all.length]?.preset,
          ).filter((p) => p !== undefined),
        )
      }
      case 'sources':
        return sourceVariants(id, await this.otherSources(project, id, count - 1))
    }
  }

  /** Sources of the other tracks, then shipped sounds. */
  private async otherSources(project: Project, id: string, count: number) {
    const own = project.tracks
      .filter(
        (t) =>
          t.id !== id && t.source && !sourceDefinition(t.source.type)?.device && t.source.type !== 'track',
      )
      .flatMap((t) => (t.source ? [{ name: t.name, source: t.source, audio: {} as Project['audio'] }] : []))
    const brought = this.added
    const known = new Set([
      ...[...brought, ...own].flatMap((s) => soundsOf(s.source)),
      trackOf(project, id)?.source?.audio,
    ])
    const { sounds } = await this.ships.catalogue()
    const more = sounds
      .filter((s) => !known.has(s.hash))
      .slice(0, Math.max(0, count - brought.length - own.length))
    const shipped = await Promise.all(
      more.map(async ({ title, hash }) => {
        const sound = await this.sounds.takeShipped(hash)
        return {
          name: title,
          source: newSource('loop', { tempo: 96 }, hash),
          audio: { [hash]: refOf(title, sound) },
        }
      }),
    )
    return [...brought, ...own, ...shipped].slice(0, count)
  }

  /** Another project is open. */
  forget(): void {
    this.added = []
  }
}

export const tryOutKinds = [
  { value: 'dice', text: 'Throws of the dice' },
  { value: 'sources', text: 'Other sounds' },
  { value: 'shipped', text: 'Shipped chains' },
  { value: 'snapshots', text: 'Snapshots' },
  { value: 'morph', text: 'Places of a morph' },
  { value: 'orders', text: 'Orders of effects' },
] as const
export type TryOutKind = (typeof tryOutKinds)[number]['value']

/** What is said where a kind gives nothing to compare. */
export const nothingToTry: Readonly<Record<TryOutKind, string>> = {
  dice: 'Nothing may change. Turn on at least one kind in the dice (Shift+X).',
  sources: 'There are no other sounds to try.',
  shipped: 'The shipped chains could not be loaded.',
  snapshots: 'This track has no snapshots. Shift+1 to Shift+9 store some.',
  morph: 'This track has no morph. Add one under Modulators.',
  orders: 'This chain has no two effects to swap.',
}
