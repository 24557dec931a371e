import { readWav } from '@oleaje/core/formats/wav'
import type { AudioData } from '@oleaje/core/contract/audio'
import type { Sounds } from './balance'
import { type Phrase, phraseOf } from '@oleaje/core/render/phrase'

/** The phrases of the library, made of the demo's sound files when they are first asked for. */
export function audioOfPhrase(file: (name: string) => Uint8Array): Sounds {
  const made = new Map<Phrase, AudioData>()
  return (phrase) => {
    if (phrase === 'sine') return null
    const known =
      made.get(phrase) ?? phraseOf(phraseFiles[phrase].map((name) => readWav(new Uint8Array(file(name)))))
    made.set(phrase, known)
    return known
  }
}

/** The sounds of the demo that a phrase is made of, by file. */
export const phraseFiles: Readonly<Record<Exclude<Phrase, 'sine'>, readonly string[]>> = {
  drums: ['deck-kit'],
  guitar: ['rope-guitar'],
  synth: ['galley-keys'],
  pad: ['fog-pad'],
  bass: ['hull-bass'],
  voice: ['foghorn-voice'],
  mix: ['deck-kit', 'hull-bass', 'galley-keys', 'fog-pad'],
  snare: ['deck-snare'],
  hat: ['deck-hat'],
  crash: ['deck-crash'],
}
