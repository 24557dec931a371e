import type { AudioData } from '../contract/audio'
import { type SoundFormat, refusedFormat } from '../formats/sound-encoder'
import type { WavDepth } from '../formats/wav'
import type { Project } from '../project/schema'
import { type LevelTarget } from './level'
import { type RangeKind, type SongRange, rangesOf } from './ranges'
import { RenderError } from './render'
import { type Stem, type StemKind, stemsOf } from './stems'

/** Rates of files in Hz. */
export const fileRates = [44_100, 48_000, 88_200, 96_000] as const

/** What is asked for: what is heard, over which range, and how it is written. */
export interface DeliveryOrder {
  readonly what: StemKind
  /** The track that it is about; the mix without one. */
  readonly track?: string
  readonly range: RangeKind
  /** First beat and the beat after the last, for a range from beat to beat. */
  readonly beats?: readonly [number, number]
  /**
   * `song` plays from the start of the song and leaves out what comes before the range, so that a part is
   * that part of the whole; `fresh` begins from silence.
   */
  readonly begin: 'song' | 'fresh'
  /** Seconds, until silent, or folded into the start for a loop without a seam. */
  readonly tail: number | 'auto' | 'folded'
  /** Hz; that of the project where it is 0. */
  readonly rate: number
  readonly format: SoundFormat
  readonly depth: WavDepth
  readonly level: LevelTarget
  /** Name of each file, with {project}, {what}, {range}, {tempo} and {number}. */
  readonly name: string
}

export const usualOrder: DeliveryOrder = {
  what: 'mix',
  range: 'loop',
  begin: 'fresh',
  tail: 'auto',
  rate: 0,
  format: 'wav',
  depth: 24,
  level: { kind: 'as it is', loudness: -14, ceiling: -1 },
  name: '{project} {what} {range}',
}

/** Words of a name’s pattern that are replaced. */
export const nameWords = ['{project}', '{what}', '{range}', '{tempo}', '{number}'] as const

/** One file of a delivery. */
export interface DeliveryFile {
  readonly name: string
  readonly stem: Stem
  readonly range: SongRange
  readonly order: DeliveryOrder
}

/** Sounds by their hash. */
export type Sounds = (hash: string) => AudioData | null

/** Most files of one delivery. */
const MOST_FILES = 500

/**
 * The files of a delivery, named.
 * @param stems in place of those that the order names
 * @throws RenderError where the order makes no sense
 */
export function planDelivery(
  project: Project,
  order: DeliveryOrder,
  stems?: readonly Stem[],
): DeliveryFile[] {
  const rate = order.rate || project.sampleRate
  const refused = refusedFormat({ format: order.format, depth: order.depth, sampleRate: rate })
  if (refused) throw new RenderError(refused)
  const heard = stems ?? stemsOf(project, order.what, order.track)
  if (heard.length === 0) throw new RenderError(nothingThere[order.what] ?? 'There is nothing to render.')
  const ranges = rangesOf(project, order.range, order.beats)
  const count = heard.length * ranges.length
  if (count > MOST_FILES)
    throw new RenderError(`At most ${MOST_FILES} files can be rendered at once; these would be ${count}.`)
  const names = new Set<string>()
  return heard.flatMap((stem) =>
    ranges.map((range): DeliveryFile => {
      const words: Record<string, string> = {
        project: project.name,
        what: stem.name,
        range: range.name,
        tempo: `${Math.round(project.tempo * 100) / 100} bpm`,
        number: String(names.size + 1).padStart(2, '0'),
      }
      const name = freeIn(names, fileName(order.name, words))
      names.add(name.toLowerCase())
      return { name: `${name}.${order.format}`, stem, range, order }
    }),
  )
}

const nothingThere: Partial<Record<StemKind, string>> = {
  stems: 'No track goes into the mix.',
  branches: 'This track has no split with branches.',
  snapshots: 'This track has no snapshots. Shift+1 to Shift+9 store some.',
}

/** A name that every file system takes. */
function fileName(pattern: string, words: Readonly<Record<string, string>>): string {
  const name = pattern
    .replace(/\{(\w+)\}/g, (whole, word: string) => words[word] ?? whole)
    .replace(/[\\/:*?"<>|\u0000-\u001f]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[ .]+|[ .]+$/g, '')
    .slice(0, 120)
    .trim()
  return name || 'render'
}

function freeIn(taken: ReadonlySet<string>, name: string): string {
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${name} ${n}`
    if (!taken.has(tried.toLowerCase())) return tried
  }
}
