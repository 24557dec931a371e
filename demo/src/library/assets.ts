import { readWav } from '@oleaje/core/formats/wav'
import type { AudioData } from '@oleaje/core/contract/audio'
import type { Sounds } from './balance'
import { type Phrase, phraseFiles, phraseOf } from './phrases'

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
