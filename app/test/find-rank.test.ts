import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import { rankFound } from '../composables/find-rank'

const all = effects.map((e) => ({ id: e.id, name: e.name, words: e.also ?? [], tip: e.tip }))
const first = (query: string): string | undefined => rankFound(query, all)[0]?.id

describe('what is searched for', () => {
  it.each([
    ['eq', 'eq'],
    ['ring', 'ring'],
    ['delay', 'delay'],
    ['allpass', 'all-pass'],
    ['all pass', 'all-pass'],
    ['lowpass', 'filter'],
    ['low-pass', 'filter'],
    ['high pass', 'filter'],
    ['equaliser', 'eq'],
    ['equalizer', 'eq'],
    ['distortion', 'drive'],
    ['overdrive', 'drive'],
    ['saturation', 'drive'],
    ['waveshaper', 'shaper'],
    ['fold', 'folder'],
    ['chorus', 'chorus'],
    ['flanger', 'flanger'],
    ['clip', 'drive'],
    ['bitcrush', 'crush'],
    ['lofi', 'crush'],
    ['multiband', 'compressor'],
    ['echo', 'delay'],
    ['multitap', 'taps'],
    ['pan', 'stereo'],
    ['volume', 'gain'],
    ['formant', 'vowel'],
    ['hall', 'reverb'],
    ['impulse', 'convolver'],
    ['tape stop', 'varispeed'],
    ['glitch', 'stutter'],
    ['detune', 'chorus'],
    ['del', 'delay'],
    ['comp', 'compressor'],
    ['lim', 'limiter'],
    ['tre', 'tremolo'],
    ['gra', 'grains'],
  ])('“%s” finds %s first', (query, id) => expect(first(query)).toBe(id))
  it('every effect by its own name', () => {
    for (const e of all) expect(first(e.name)).toBe(e.id)
  })
  it('needs all words, keeps the order of equals and gives all for nothing', () => {
    const some = [
      { name: 'Fog one', words: ['pad'], tip: '' },
      { name: 'Fog two', words: ['bass'], tip: '' },
      { name: 'Hull', words: [], tip: 'fog of old' },
    ]
    expect(rankFound('fog', some).map((f) => f.name)).toEqual(['Fog one', 'Fog two', 'Hull'])
    expect(rankFound('fog bass', some).map((f) => f.name)).toEqual(['Fog two'])
    expect(rankFound('  ', some)).toHaveLength(3)
    expect(rankFound('anchor', some)).toEqual([])
  })
})
