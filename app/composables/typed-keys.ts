/**
 * The computer's keys as strings of an instrument, each row a fourth above the one below it and a semitone
 * from key to key, by where the keys are and not by what is printed on them. The lowest left one is C.
 */
const rows: readonly (readonly string[])[] = [
  ['IntlBackslash', 'KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyB', 'KeyN', 'KeyM', 'Comma', 'Period', 'Slash'],
  ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG', 'KeyH', 'KeyJ', 'KeyK', 'KeyL', 'Semicolon', 'Quote'],
  [
    'KeyQ',
    'KeyW',
    'KeyE',
    'KeyR',
    'KeyT',
    'KeyY',
    'KeyU',
    'KeyI',
    'KeyO',
    'KeyP',
    'BracketLeft',
    'BracketRight',
  ],
  [
    'Digit1',
    'Digit2',
    'Digit3',
    'Digit4',
    'Digit5',
    'Digit6',
    'Digit7',
    'Digit8',
    'Digit9',
    'Digit0',
    'Minus',
    'Equal',
  ],
]

/** Distance in semitones of a key from the lowest left one; undefined for one that plays nothing. */
const semitones = new Map(
  rows.flatMap((row, r) => row.map((code, i) => [code, 5 * r + i - (r === 0 ? 1 : 0)] as const)),
)

/** The note of a key by its code, from an octave up; undefined for none. */
export function noteOfKey(code: string, octave: number): number | undefined {
  const up = semitones.get(code)
  if (up === undefined) return undefined
  const note = 12 * (octave + 1) + up
  return note >= 0 && note <= 127 ? note : undefined
}
