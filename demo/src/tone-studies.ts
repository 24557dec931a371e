import { ownFrom } from '@oleaje/core/effects/vowel'
import { setSidechain } from '@oleaje/core/project/chain-edits'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import type { Effect, Project, Track } from '@oleaje/core/project/schema'
import { type DemoSound, assemble, linkValue, loopTrack } from './assemble'
import { presetEffect as preset } from './preset-effect'

/** The five vowels that the drums speak, in the order in which one control goes through them. */
const FIVE = [0, 2, 4, 5, 7] as const

/** One short chain for each way of colouring, each on a track of its own; all but the first are muted. */
export function toneStudies(sounds: readonly DemoSound[]): Project {
  const vowel: Effect = {
    ...newEffect('vowel', { mode: 2, position: 0, amount: 1, dry: 0.25 }, 'speak-vowel'),
    data: { vowels: FIVE.map((n) => ownFrom(n)) as never },
  }
  const bandsOf = (names: readonly (readonly [string, Effect])[]) => {
    const split = newSplit(
      names.map(([name, effect], i) => ({ ...newBranch(name, 0, `part-${i}`), nodes: [effect] })),
      'three-bands',
    )
    return { ...split, mode: 'bands' as const, params: { ...split.params, cross1: 220, cross2: 1900 } }
  }
  const tracks: Track[] = [
    loopTrack(sounds, 'speaking', 'Speaking drums', 'deck-kit', -3, [
      vowel,
      newEffect('compressor', { threshold: -20, ratio: 3, makeup: 3 }, 'speak-comp'),
    ]),
    loopTrack(sounds, 'split', 'Split distortion', 'rope-guitar', -9, [
      bandsOf([
        ['weight', preset('drive', 'Warm planks', 'low-drive')],
        ['body', preset('folder', 'First fold', 'middle-folder')],
        ['air', preset('crush', 'Rusty clock', 'high-crush')],
      ]),
      newEffect('limiter', {}, 'split-limit'),
    ]),
    loopTrack(sounds, 'growl', 'Growl', 'hull-bass', -12, [
      preset('eq', 'Growl in four poses', 'growl-eq'),
      preset('drive', 'Warm planks', 'growl-drive'),
    ]),
    {
      ...newTrack(
        'Rich sine',
        newSource('tone', { wave: 0, frequency: 110, level: -12 }, null, 'rich-source'),
        'rich',
      ),
      a: {
        nodes: [
          newEffect('folder', { gain: 6, upper: 0.6, lower: -0.6, folds: 4, makeup: -6 }, 'rich-folder'),
        ],
      },
    },
    loopTrack(sounds, 'new-snare', 'New snare', 'deck-snare', -4, [
      newEffect(
        'compressor',
        { threshold: -26, ratio: 5, attack: 0.006, release: 0.09, makeup: 4 },
        'snare-comp',
      ),
      newEffect('drive', { drive: 12, curve: 3, output: -6 }, 'snare-drive'),
      newEffect('comb', { frequency: 233, feedback: 0.72, damping: 8000, wet: 0.35 }, 'snare-comb'),
    ]),
    loopTrack(sounds, 'speaking-keys', 'Keys in the drums’ mouth', 'galley-keys', -4, [
      newEffect('drive', { drive: 18, curve: 1, output: -10 }, 'keys-drive'),
      preset('vocoder', 'Clear words', 'keys-vocoder', { release: 0.12 }),
    ]),
    loopTrack(sounds, 'in-the-hold', 'Pad in the hold', 'fog-pad', -4, [
      preset('convolver', 'Hold, reversed', 'hold-convolver'),
      newEffect('eq', {}, 'hold-eq'),
    ]),
  ]
  for (const t of tracks.slice(1)) t.params.mute = 1
  return assemble({
    id: 'tone-studies',
    name: 'Night Ferry: ways of colouring',
    sounds,
    tracks,
    mix: [],
    edits: [
      addModulator('speaking', 'macro', { id: 'say', name: 'Say', params: { value: 0.2 } }),
      linkValue('say', 'speak-vowel', 'position', 0, 1, 'fixed'),
      addModulator('speaking', 'macro', { id: 'clearly', name: 'Clearly', params: { value: 0.5 } }),
      linkValue('clearly', 'speak-vowel', 'amount', 0, 2, 'fixed'),
      addModulator('speaking', 'lfo', { id: 'talk', name: 'Talk', params: { sync: 1, length: 4, shape: 1 } }),
      linkValue('talk', 'say', 'value', 0, 1, 'fixed'),
      addModulator('growl', 'macro', { id: 'snarl', name: 'Snarl', params: { value: 0.3 } }),
      linkValue('snarl', 'growl-eq', 'travel', 0, 1, 'fixed'),
      addModulator('growl', 'lfo', { id: 'gnash', name: 'Gnash', params: { sync: 1, length: 2, shape: 0 } }),
      linkValue('gnash', 'snarl', 'value', 0.1, 0.95, 'fixed'),
      addModulator('rich', 'macro', { id: 'wealth', name: 'Wealth', params: { value: 0.4 } }),
      linkValue('wealth', 'rich-folder', 'gain', 0, 24, 'fixed'),
      addModulator('new-snare', 'lfo', { id: 'rattle', name: 'Rattle', params: { rate: 23.7 } }),
      linkValue('rattle', 'snare-comb', 'frequency', 190, 290),
      setSidechain('keys-vocoder', { track: 'speaking', point: 'before' }),
    ],
  })
}
