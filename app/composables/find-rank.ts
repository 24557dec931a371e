/** Something that can be found: its name, words that mean the same or stand for it, and a tip. */
export interface Findable {
  readonly name: string
  readonly words: readonly string[]
  readonly tip: string
}

const plain = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, ' ')
    .trim()
/** Without gaps, so that “all pass”, “all-pass” and “allpass” are one. */
const joined = (text: string): string => plain(text).replaceAll(' ', '')

/** How well one word that was typed fits: the lower the better; Infinity where it does not. */
function fit(word: string, f: Findable): number {
  const name = plain(f.name)
  const words = f.words.map(plain)
  if (name === word || joined(name) === word) return 0
  if (name.startsWith(word) || joined(name).startsWith(word)) return 1
  if (name.split(' ').some((w) => w.startsWith(word))) return 2
  if (words.some((w) => w === word || joined(w) === word)) return 3
  if (words.some((w) => w.split(' ').some((x) => x.startsWith(word)) || joined(w).startsWith(word))) return 4
  if (name.includes(word)) return 5
  return plain(f.tip).includes(word) ? 6 : Infinity
}

/**
 * What was searched for, the best first: by name, beginning of the name, word of it, synonym, part of the
 * name, tip. All words must be found; among equals the order stays.
 */
export function rankFound<F extends Findable>(query: string, all: readonly F[]): F[] {
  const words = plain(query).split(' ').filter(Boolean)
  if (words.length === 0) return [...all]
  const whole = words.join(' ')
  return all
    .map((f, i) => ({ f, i, fit: Math.min(fit(whole, f), Math.max(...words.map((w) => fit(w, f))) + 0.5) }))
    .filter((x) => Number.isFinite(x.fit))
    .sort((a, b) => a.fit - b.fit || a.i - b.i)
    .map((x) => x.f)
}
