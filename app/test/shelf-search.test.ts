import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import { rankFound } from '../composables/find-rank'
import { ShelfEntries } from '../services/shelf-entries'
import type { ShippedChain } from '../storage/shipped'

vi.mock('../storage/database', () => ({}))
vi.mock('../stores/preference', () => ({ preference: (_: string, value: unknown) => ref(value) }))

const library = JSON.parse(
  readFileSync(join(import.meta.dirname, '../../demo/assets/library.json'), 'utf8'),
) as ShippedChain[]
const entries = new ShelfEntries(
  { items: ref([]) } as never,
  { library: () => Promise.resolve(library) } as never,
  {} as never,
  {} as never,
)
await entries.open()
const found = (query: string): string[] =>
  rankFound(
    query,
    entries.all.value.map((e) => ({ name: e.preset.name, words: e.words, tip: e.preset.about })),
  ).map((f) => f.name)

describe('a job is found on the Shelf by its plain name', () => {
  it.each([
    ['A pad that shifts', 'A pad that shifts'],
    ['An EQ that travels', 'An EQ that travels'],
    ['A growl', 'Growl'],
    ['Drums that speak', 'Drums that speak'],
    ['Filters from first principles', 'Filter from first principles'],
    ['One sound’s shape on another', 'Voice on a chord'],
    ['A sine turned rich', 'A sine turned rich'],
    ['A new snare out of an old one', 'A new snare out of an old one'],
    ['Distortion by bands', 'Distortion by bands'],
    ['A bass that ducks or opens with the drums', 'Bass that ducks with the drums'],
    ['A guitar through a filter that answers', 'Guitar through a filter that answers'],
    ['A band that plays notes', 'A band that plays notes'],
    ['A resonator as an instrument', 'Resonator as an instrument'],
    ['A chorus from parts', 'A chorus from parts'],
    ['A worn tape', 'A worn tape'],
    ['A cloud of taps', 'A cloud of taps'],
    ['Glitches', 'Gated repeater'],
    ['A living reverb', 'A living reverb'],
    ['A pre-drop blur', 'Pre-drop blur'],
    ['Texture', 'Metal rain'],
    ['Pedals from parts', 'Pedal board from parts'],
    ['A one-control riser', 'One-control riser'],
  ])('%s', (job, chain) => {
    expect(found(job)).toContain(chain)
  })
})
