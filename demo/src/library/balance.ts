import type { AudioData, Stereo } from '@oleaje/core/contract/audio'
import { newEffect } from '@oleaje/core/project/new'
import type { Preset } from '@oleaje/core/project/preset'
import type { LibraryChain } from './chain-maker'
import { type MacroPlaces, type Phrase, phraseThrough } from '@oleaje/core/render/phrase'
import { Measured, inWords } from './points'

/** Figures of a chain on its phrase. */
export interface ChainFigures {
  readonly phrase: Phrase
  /** Loudness in LU against dry, and true peak in dBTP. */
  readonly louder: number
  readonly truePeak: number
  /** Change of the figure that the chain is for, and the same in words. */
  readonly change: number
  readonly point: string
}

export type Sounds = (phrase: Phrase) => AudioData | null

const phraseFor = (chain: LibraryChain): Phrase => chain.on ?? chain.for[0] ?? 'drums'

/** Measures a chain: through its preset as given, which may be one with another level. */
export function figuresOf(chain: LibraryChain, preset: Preset, sounds: Sounds): ChainFigures {
  const phrase = phraseFor(chain)
  const through = (with_: Preset | null, macros: MacroPlaces = {}): Measured => {
    const sound: Stereo = phraseThrough(phrase, with_, macros, sounds)
    return new Measured(sound, 48_000)
  }
  const { point } = chain
  const dry = through(null)
  const wet = through(preset)
  const change = (point.at ? through(preset, point.at) : wet).changeFrom(
    point.against ? through(preset, point.against) : dry,
    point.figure,
  )
  return {
    phrase,
    louder: wet.figures.loudness - dry.figures.loudness,
    truePeak: wet.figures.truePeak,
    change,
    point: inWords(point, change),
  }
}

/** Most true peak in dBTP, and least difference of loudness in LU that is made up for. */
const CEILING = -1
const SMALL = 0.25

/**
 * A chain with a gain at its end that makes it as loud as the dry sound on its phrase, with a limiter
 * behind it where peaks would go over.
 */
export function balanced(chain: LibraryChain, sounds: Sounds): Preset {
  const id = chain.preset.chain.nodes[0]?.id ?? ''
  let level = 0
  let limits = false
  const made = (): Preset => ({
    ...chain.preset,
    chain: {
      nodes: [
        ...chain.preset.chain.nodes,
        ...(level ? [{ ...newEffect('gain', { level }, `${id}-trim`), name: 'Trim' }] : []),
        ...(limits ? [newEffect('limiter', { ceiling: CEILING - 0.4 }, `${id}-limit`)] : []),
      ],
    },
  })
  for (let round = 0; round < 5; round++) {
    const { louder, truePeak } = figuresOf(
      { ...chain, point: { figure: { of: 'crest' }, least: 0 } },
      made(),
      sounds,
    )
    const over = truePeak > CEILING - 0.1
    if (Math.abs(louder) <= SMALL && !over) break
    if (Math.abs(louder) > SMALL) level = Math.max(-40, Math.min(30, Math.round((level - louder) * 10) / 10))
    if (over) limits = true
  }
  return made()
}
