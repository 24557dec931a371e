import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { visibleStrings } from '../../scripts/visible-strings.mjs'

const all = visibleStrings(join(import.meta.dirname, '../..')).filter(
  ({ text }) => !/Plex Sans|data-node|^\[|PRESSED|What it does \|/.test(text),
)
const where = (s: (typeof all)[number]): string => `${s.file}:${s.line} “${s.text}”`

/** Constructions of the first editions that no text of the interface may have. */
const quaint = [
  /\b(whoever|whatever|wherever|anew|afresh|hitherto|thereby|beneath|oftener)\b/i,
  /\bno more\b/i,
  /\b(told of|gone to|looked along|goes there|goes round|come[s]? round|the way round|goes on)\b/i,
  /\b(brings? (it|them) back|let go|lets go|let it|in hand)\b/i,
  /\b(is|are) (not )?heard\b/i,
  /\b(at its|its) (lowest|highest)\b/i,
  /\bwhat (it|is|goes|comes|costs|plays|moves|sounds|was)\b/i,
  /\bshall\b/i,
  /\bby chance\b/i,
  /\bnothing (is|of)\b/i,
  /\bhow (far|much|many|often|soon|long) (it|they|the|a|each|of)\b.*\b(comes?|goes|stands?|reach(es)?|departs?)\b/i,
]
/** Ends of accessible names that are put together. */
const PARTS = new Set([
  ...['on', 'off', 'locked', 'kept', 'preset', 'minimum', 'maximum'],
  ...['in its own unit', 'as a note length'],
])
/** Attributes with text for people. */
const spoken = ['title', 'tip', 'aria-label', 'label', 'placeholder']

describe('the words of the interface', () => {
  it('are all found', () => {
    expect(all.length).toBeGreaterThan(2500)
    expect(new Set(all.map((s) => s.file)).size).toBeGreaterThan(200)
  })
  it('are plain English, without the constructions of the first editions', () => {
    const found = all.flatMap((s) =>
      quaint.filter((pattern) => pattern.test(s.text)).map((pattern) => `${where(s)} ${pattern}`),
    )
    expect(found).toEqual([])
  })
  it('start with a capital letter, a figure or a name', () => {
    const found = all.filter((s) => spoken.includes(s.kind) && /^\p{Ll}/u.test(s.text) && !PARTS.has(s.text))
    expect(found.map(where)).toEqual([])
  })
  it('are short: a label has at most 60 characters, a tooltip 160, a sentence 35 words', () => {
    const found = all.filter(
      ({ kind, text }) =>
        (kind === 'label' && text.length > 60) ||
        ((kind === 'title' || kind === 'tip') && text.length > 160) ||
        text.split(/[.!?:;] /).some((sentence) => sentence.split(/\s+/).length > 35),
    )
    expect(found.map(where)).toEqual([])
  })
  it('use a real minus sign, typographic quotes and one space after a full stop', () => {
    const found = all.filter(
      ({ kind, text }) =>
        spoken.includes(kind) && (/(^|\s)-\d/.test(text) || /"/.test(text) || /\. {2}/.test(text)),
    )
    expect(found.map(where)).toEqual([])
  })
})
