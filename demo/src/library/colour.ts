import { pow } from '@oleaje/core/dsp/math'
import { ownFrom } from '@oleaje/core/effects/vowel'
import { addLink, updateLink } from '@oleaje/core/project/motion-edits'
import { type LibraryChain, chain } from './chain-maker'

/** Chains that change the colour of a sound: filters, equalisers, vowels, resonances. */
export const colour: readonly LibraryChain[] = [
  chain(
    'A pad that shifts',
    'Two bells drift apart on slow LFOs that never line up',
    {
      tags: ['colour', 'movement'],
      for: ['pad', 'synth'],
      point: { figure: { of: 'movement' }, least: 0.3 },
    },
    (c) => {
      const low = c.add('filter', { cutoff: 900, resonance: 2.5, shape: 0.85, wet: 0.75 })
      const high = c.add('filter', { cutoff: 2600, resonance: 3, shape: 2.9, wet: 0.9 })
      const room = c.add('reverb', { decay: 2.8, wet: 0.2 })
      const a = c.lfo('Ebb', { rate: 0.31 }, [low, 'cutoff', 420, 2100], [low, 'resonance', 1.6, 4])
      const b = c.lfo('Ebb 2', { rate: 0.47, phase: 0.3 }, [high, 'cutoff', 1300, 5200])
      c.macro('Faster', 0.4, [a, 'rate', 0.05, 1.1], [b, 'rate', 0.08, 1.7])
      c.macro('Further away', 0.1, [room, 'wet', 0.05, 0.7], [room, 'decay', 1.6, 6])
    },
  ),
  chain(
    'Gliding filter shape',
    'One filter glides from low-pass through band-pass and high-pass to notch',
    {
      tags: ['colour', 'movement'],
      for: ['pad', 'synth', 'guitar'],
      point: { figure: { of: 'brightness' }, least: 0.5, at: { Shape: 0.67 }, against: { Shape: 0 } },
    },
    (c) => {
      const f = c.add('filter', { cutoff: 900, resonance: 2.2, shape: 0.4 })
      const tide = c.lfo('Tide', { rate: 0.23, shape: 1 }, [f, 'shape', 0, 1.4])
      c.macro('Shape', 0.13, [f, 'shape', 0, 3])
      c.macro('Brighter', 0.5, [f, 'cutoff', 260, 3400])
      c.macro('Faster', 0.4, [tide, 'rate', 0.05, 2])
    },
  ),
  chain(
    'An EQ that travels',
    'Four poses of an equaliser, one control to go through them',
    {
      tags: ['colour', 'movement'],
      for: ['bass', 'synth', 'guitar'],
      point: { figure: { of: 'unlike' }, least: 2, at: { Travel: 1 }, against: { Travel: 0 } },
    },
    (c) => {
      const eq = c.add('eq', {}, 'Growl in four poses')
      c.lfo('Wander', { sync: 1, length: 4, shape: 1 }, [eq, 'travel', 0, 0.9])
      c.macro('Travel', 0.1, [eq, 'travel', 0, 1])
      c.macro('Stronger', 0.75, [eq, 'amount', -2, 2])
      c.macro('Higher', 0.5, [eq, 'shift', -1, 1])
      c.macro('Wider', 0, [eq, 'apart', 0, 1])
    },
  ),
  chain(
    'Growl',
    'Bands move together and swing into their mirror image, then a hard compressor',
    {
      job: 'a growl',
      tags: ['colour', 'dirt', 'movement'],
      for: ['bass', 'synth'],
      point: { figure: { of: 'unlike' }, least: 2 },
    },
    (c) => {
      const eq = c.add('eq', { amount: 1.4 }, 'Growl in four poses')
      const smear = c.add('all-pass', { frequency: 340, stages: 24, resonance: 1.1 })
      const drive = c.add('drive', { drive: 14, curve: 3, output: -8, quality: 2 })
      const comp = c.add('compressor', {
        threshold: -24,
        ratio: 6,
        attack: 0.004,
        release: 0.09,
        upThreshold: -38,
        upRatio: 2,
        makeup: 3,
      })
      const gnash = c.lfo(
        'Gnash',
        { sync: 1, length: 0.5 },
        [eq, 'travel', 0, 0.8],
        [eq, 'amount', -0.5, 0.5],
      )
      c.macro('Snarl', 0.4, [drive, 'drive', 4, 30], [comp, 'threshold', -16, -34])
      c.macro('Slower', 0.5, [gnash, 'length', 0.25, 1])
      c.macro('Smear', 0.35, [smear, 'wet', 0, 1])
    },
  ),
  chain(
    'Drums that speak',
    'Five vowels under one control, with the dry drums below',
    {
      tags: ['voice', 'colour', 'rhythm'],
      for: ['drums'],
      point: { figure: { of: 'unlike' }, least: 2 },
    },
    (c) => {
      const vowel = c.fx('vowel', { mode: 2, position: 0.2, amount: 1, dry: 0.25 })
      c.put({ ...vowel, data: { vowels: [0, 2, 4, 5, 7].map((n) => ownFrom(n)) as never } })
      const comp = c.add('compressor', { threshold: -20, ratio: 3, makeup: 3 })
      const say = c.macro('Say', 0.2, [vowel, 'position', 0, 1])
      c.macro('Clearer', 0.5, [vowel, 'amount', 0, 2])
      c.macro('Drier', 0.25, [vowel, 'dry', 0, 1])
      c.macro('Tighter', 0.3, [comp, 'ratio', 1.5, 8])
      c.lfo('Talk', { sync: 1, length: 4, shape: 1 }, [say, 'value', 0, 0.8])
    },
  ),
  chain(
    'Talking hats',
    'Narrow vowels that jump with each sixteenth, where cymbals speak best',
    {
      job: 'drums that speak',
      tags: ['voice', 'rhythm'],
      for: ['drums', 'mix'],
      on: 'hat',
      point: { figure: { of: 'brightness' }, least: -0.4 },
    },
    (c) => {
      const vowel = c.add('vowel', { mode: 0, position: 0.4, width: 0.6, highCut: 14_000, dry: 0.1 })
      const lfo = c.lfo('Words', { shape: 5, sync: 1, length: 0.25 }, [vowel, 'position', 0, 1])
      c.macro('Smaller', 0.5, [vowel, 'size', 0.7, 1.5])
      c.macro('Narrower', 0.4, [vowel, 'width', 2, 0.4])
      c.macro('Slower', 0.2, [lfo, 'length', 0.125, 2])
    },
  ),
  chain(
    'Voice on a chord',
    'A vocoder presses the voice onto held resonators in D minor',
    {
      job: "one sound's shape on another vocoder",
      tags: ['voice', 'colour'],
      for: ['voice', 'drums'],
      point: { figure: { of: 'unlike' }, least: 3 },
    },
    (c) => {
      const bank = c.fx('resonators', { decay: 2.5 }, 'Rigging in D minor')
      const drive = c.fx('drive', { drive: 12, output: -6, quality: 2 })
      const mouth = c.fx('vocoder', { release: 0.08 }, 'Clear words')
      const split = c.split('copies', { 'as it was': [], 'on the chord': [bank, drive, mouth] }, [-12, 0])
      c.macro('Chord', 0.8, [split.branches[1] ?? '', 'level', -30, 3])
      c.macro('Longer', 0.4, [bank, 'decay', 0.3, 8], [mouth, 'release', 0.02, 0.5])
      c.macro('Smaller throat', 0.5, [mouth, 'shift', -8, 8])
    },
  ),
  chain(
    'Filter from first principles',
    'All-pass beside the dry sound: low-pass, high-pass or shelf by one gain from −1 to 1',
    {
      job: 'filters from first principles all-pass',
      tags: ['colour'],
      for: ['synth', 'pad', 'drums'],
      point: {
        figure: { of: 'brightness' },
        least: 0.4,
        at: { 'Low to high': 0 },
        against: { 'Low to high': 1 },
      },
    },
    (c) => {
      const turn = c.fx('all-pass', { frequency: 700, order: 0 })
      const sign = c.fx('gain', { mode: 1, factor: 0.8 })
      c.split('copies', { straight: [], turned: [turn, sign] }, [-3, -3])
      c.macro('Low to high', 0.9, [sign, 'factor', -1, 1])
      c.macro('Higher', 0.5, [turn, 'frequency', 120, 4000])
    },
  ),
  chain(
    'Notch between two paths',
    'Two all-pass stages beside the dry sound cut a notch that wanders',
    {
      job: 'filters from first principles',
      tags: ['colour', 'movement'],
      for: ['guitar', 'synth', 'pad'],
      point: { figure: { of: 'unlike' }, least: 0.8 },
    },
    (c) => {
      const turn = c.fx('all-pass', { frequency: 900, order: 1, resonance: 0.5 })
      const split = c.split('copies', { straight: [], turned: [turn] }, [-3, -3])
      const slow = c.lfo('Wander', { rate: 0.29 }, [turn, 'frequency', 380, 2600])
      c.macro('Deeper', 0.9, [split.branches[1] ?? '', 'level', -30, -3])
      c.macro('Faster', 0.4, [slow, 'rate', 0.05, 3])
    },
  ),
  chain(
    'Smeared hits',
    'Forty all-pass stages turn each hit into a falling chirp',
    { tags: ['colour', 'time'], for: ['drums', 'bass'], point: { figure: { of: 'sameness' }, least: -40 } },
    (c) => {
      const smear = c.add('all-pass', { frequency: 420, stages: 40, resonance: 1.6 })
      const snap = c.add('transient', { attack: 0 })
      c.macro('Longer chirp', 0.5, [smear, 'resonance', 0.6, 5])
      c.macro('Lower', 0.5, [smear, 'frequency', 1600, 110])
      c.macro('Harder', 0.35, [snap, 'attack', -8, 14])
    },
  ),
  chain(
    'Pipes under the deck',
    'A tuned comb of either sign, its pitch pulled by a slow drift',
    {
      tags: ['colour', 'space'],
      for: ['drums', 'guitar', 'voice'],
      point: { figure: { of: 'unlike' }, least: 1.5 },
    },
    (c) => {
      const comb = c.add('comb', { frequency: 146.8, feedback: 0.82, damping: 5200, wet: 0.55 })
      c.mod('drift', 'Pull', { kind: 0, speed: 0.4, roam: 0.5 }, [comb, 'frequency', 143, 151])
      c.macro('Longer', 0.7, [comb, 'feedback', 0.3, 0.98])
      c.macro('Hollow', 0, [comb, 'feedback', 0.82, -0.82])
      c.macro('Darker', 0.4, [comb, 'damping', 12_000, 900])
      c.macro('More pipe', 0.55, [comb, 'wet', 0, 1])
    },
  ),
  chain(
    'Strings from hits',
    'A bank of resonators in D minor that drums pluck',
    { tags: ['colour', 'space'], for: ['drums', 'voice'], point: { figure: { of: 'fill' }, least: 4 } },
    (c) => {
      const bank = c.add('resonators', { decay: 3, wet: 0.6 }, 'Rigging in D minor')
      const room = c.add('reverb', { decay: 1.6, wet: 0.15 })
      c.macro('Longer', 0.5, [bank, 'decay', 0.2, 12])
      c.macro('Higher', 0.5, [bank, 'transpose', -12, 12])
      c.macro('More strings', 0.6, [bank, 'wet', 0, 1])
      c.macro('Wetter', 0.2, [room, 'wet', 0, 0.6])
    },
  ),
  chain(
    'Resonator as an instrument',
    'A comb in feedback, tuned by the notes of the track and plucked by the sound',
    { tags: ['colour', 'voice'], for: ['drums', 'synth'], point: { figure: { of: 'unlike' }, least: 2 } },
    (c) => {
      const comb = c.add('comb', { frequency: 220, feedback: 0.96, damping: 4200 })
      const notes = c.mod('notes', 'Tune', { glide: 0.02 })
      c.edit(addLink(notes.id, { owner: comb.id, param: 'frequency' }, 0, 1, { output: 'pitch' }))
      const limit = c.add('limiter', { ceiling: -3 })
      c.macro('Longer', 0.7, [comb, 'feedback', 0.8, 0.995])
      c.macro('Darker', 0.4, [comb, 'damping', 9000, 900])
      c.macro('Louder', 0.2, [limit, 'gain', 0, 12])
    },
  ),
  chain(
    'A band that plays notes',
    'A narrow band follows the notes one-to-one into a delay',
    {
      tags: ['colour', 'voice', 'time'],
      for: ['synth', 'pad', 'drums'],
      point: { figure: { of: 'unlike' }, least: 2 },
    },
    (c) => {
      const band = c.fx('filter', { cutoff: 440, resonance: 14, shape: 1, drive: 6, output: 4 })
      const echo = c.fx('delay', { sync: 1, length: 0.75, feedback: 0.4, wet: 0.4 })
      const split = c.split('copies', { dry: [], played: [band, echo] }, [-9, 0])
      const notes = c.mod('notes', 'Tune', { glide: 0.03 })
      c.edit(addLink(notes.id, { owner: band.id, param: 'cutoff' }, 0, 1, { output: 'pitch' }))
      c.macro('Narrower', 0.5, [band, 'resonance', 3, 30])
      c.macro('Echo', 0.4, [echo, 'wet', 0, 0.8])
      c.macro('Dry', 0.6, [split.branches[0] ?? '', 'level', -40, 0])
    },
  ),
  chain(
    'Filter on steps',
    'A resonant filter stepped over octaves at odd note lengths',
    {
      tags: ['colour', 'rhythm', 'movement'],
      for: ['pad', 'synth', 'mix'],
      point: { figure: { of: 'movement' }, least: 2 },
    },
    (c) => {
      const f = c.add('filter', { cutoff: 600, resonance: 5, slope: 1, output: 2 })
      const seven = c.mod('steps', 'Seven', { length: 0.375 }, [f, 'cutoff', 180, 4800])
      c.edit((p) => {
        const m = p.tracks.flatMap((t) => t.modulators).find((x) => x.id === seven.id)
        if (m)
          m.lanes = {
            steps: [0.9, 0.25, 0.5, 0.1, 0.75, 0.4, 0].map((level) => ({ level, glide: 0.05, chance: 1 })),
          }
      })
      c.macro('Brighter', 0.4, [f, 'cutoff', 200, 2600])
      c.macro('Sharper', 0.4, [f, 'resonance', 1, 12])
      c.macro('Slower', 0.4, [seven, 'length', 0.125, 1])
    },
  ),
  chain(
    'Phaser in the wind',
    'Six stages swept by a drift, so that no sweep is like the last',
    {
      tags: ['colour', 'movement'],
      for: ['guitar', 'pad', 'synth'],
      point: { figure: { of: 'unlike' }, least: 0.5 },
    },
    (c) => {
      const phaser = c.add('phaser', { depth: 0.2, feedback: 0.55 }, 'Static, for a link')
      const wind = c.mod('drift', 'Wind', { kind: 0, speed: 0.9, roam: 0.4 }, [
        phaser,
        'frequency',
        260,
        2800,
      ])
      c.macro('Deeper', 0.5, [phaser, 'mix', 0, 1], [phaser, 'feedback', 0, 0.85])
      c.macro('Gustier', 0.4, [wind, 'speed', 0.1, 4])
      c.macro('Wider', 0.25, [phaser, 'stereo', 0, 0.5])
    },
  ),
  chain(
    'Slow phaser pair',
    'Left and right through phasers of their own speed',
    {
      tags: ['colour', 'movement', 'space'],
      for: ['pad', 'guitar', 'synth'],
      point: { figure: { of: 'width' }, least: 1.5 },
    },
    (c) => {
      const [left, right] = [
        c.fx('phaser', { rate: 0.17, stages: 8, stereo: 0 }),
        c.fx('phaser', { rate: 0.23, stages: 8, stereo: 0 }),
      ]
      c.split('left-right', { left: [left], right: [right] })
      c.macro('Faster', 0.3, [left, 'rate', 0.05, 3], [right, 'rate', 0.07, 4.1])
      c.macro('Sharper', 0.5, [left, 'feedback', -0.3, 0.9], [right, 'feedback', -0.3, 0.9])
    },
  ),
  chain(
    'Wooden box and weight',
    'An equaliser that takes the middle out and puts weight below',
    {
      tags: ['colour'],
      for: ['drums', 'guitar', 'bass', 'mix'],
      point: { figure: { of: 'unlike' }, least: 0.4 },
    },
    (c) => {
      const eq = c.add('eq', {}, 'Weight and air')
      const box = c.add('convolver', { wet: 0.2 }, 'Cabin')
      c.macro('Stronger', 0.5, [eq, 'amount', 0, 2])
      c.macro('Box', 0.2, [box, 'wet', 0, 0.8])
    },
  ),
  chain(
    'Tilted by the sides',
    'Middle and sides filtered apart: dark centre, bright edges, wide',
    {
      tags: ['colour', 'space'],
      for: ['pad', 'mix', 'synth'],
      point: { figure: { of: 'width' }, least: 1.5 },
    },
    (c) => {
      const dark = c.fx('filter', { cutoff: 2600, resonance: 0.6 })
      const bright = c.fx('filter', { cutoff: 240, shape: 2, resonance: 0.6 })
      const wide = c.fx('gain', { level: 4 })
      c.split('mid-side', { middle: [dark], sides: [bright, wide] })
      const last = c.add('stereo', { monoBelow: 120 })
      c.macro('Darker centre', 0.5, [dark, 'cutoff', 9000, 700])
      c.macro('Wider', 0.5, [wide, 'level', -6, 12], [last, 'width', 0.7, 1.4])
    },
  ),
  chain(
    'Radio to shore',
    'A narrow band, a little crush and a small speaker',
    {
      tags: ['colour', 'dirt', 'voice'],
      for: ['voice', 'drums', 'mix'],
      point: { figure: { of: 'band', from: 20, to: 250 }, least: -6 },
    },
    (c) => {
      const band = c.add('filter', {}, 'Telephone to shore')
      const crush = c.add('crush', { bits: 9, rate: 11_000 }, 'Ship’s radio')
      const box = c.add('convolver', {}, 'Small speaker')
      c.macro('Worse', 0.4, [crush, 'rate', 30_000, 4000], [crush, 'bits', 13, 5])
      c.macro('Smaller', 0.5, [band, 'cutoff', 700, 2400])
      c.macro('Near', 0, [box, 'wet', 1, 0])
    },
  ),
  chain(
    'Select between four colours',
    'One position glides from dark through hollow and vowel to bright',
    {
      tags: ['colour', 'movement', 'voice'],
      for: ['drums', 'synth', 'pad'],
      point: { figure: { of: 'brightness' }, least: 0.8, at: { Colour: 1 }, against: { Colour: 0 } },
    },
    (c) => {
      const split = c.split('select', {
        dark: [c.fx('filter', { cutoff: 420, resonance: 1.2 })],
        hollow: [c.fx('comb', { feedback: -0.6, frequency: 180, wet: 0.7 })],
        vowel: [c.fx('vowel', { dry: 0.2 }, 'Ah')],
        bright: [c.fx('filter', { cutoff: 1500, shape: 2 }), c.fx('gain', { level: 4 })],
      })
      const at = c.macro('Colour', 0.35, [split, 'position', 0, 1])
      c.lfo('Turn', { sync: 1, length: 8, shape: 1 }, [at, 'value', 0.1, 0.6])
    },
  ),
  chain(
    'Ring of bells',
    'A ring modulator and small resonators make metal of any sound',
    {
      tags: ['colour', 'dirt'],
      for: ['drums', 'synth', 'guitar'],
      point: { figure: { of: 'unlike' }, least: 2 },
    },
    (c) => {
      const ring = c.add('ring', { wet: 0.5 }, 'Bell buoy')
      const bells = c.add('resonators', { wet: 0.4 }, 'Small bells')
      c.mod('drift', 'Swing', { speed: 0.3 }, [ring, 'frequency', 190, 250])
      c.macro('Metal', 0.5, [ring, 'wet', 0, 1], [bells, 'wet', 0, 0.9])
      c.macro('Longer', 0.4, [bells, 'decay', 0.1, 5])
    },
  ),
  chain(
    'Fanned bands',
    'Eight bands move together, each with a phase of its own',
    {
      tags: ['colour', 'movement'],
      for: ['pad', 'synth', 'mix'],
      point: { figure: { of: 'movement' }, least: 1.5 },
    },
    (c) => {
      const eq = c.fx('eq')
      c.put({
        ...eq,
        lanes: {
          bands: Array.from({ length: 8 }, (_, i) => ({
            on: 1,
            kind: 0,
            frequency: 160 * pow(1.85, i),
            gain: 0,
            q: 2.5,
          })),
        },
      })
      const wave = c.lfo('Wave', { rate: 0.9, shape: 0 }, [eq, 'bands[*].gain', -14, 9])
      c.edit((p) => {
        const link = p.links.find((l) => l.source === wave.id)
        if (link) updateLink(link.id, { fan: { phase: 1.5, rate: 0, random: 0 } })(p)
      })
      c.macro('Faster', 0.3, [wave, 'rate', 0.1, 6])
      c.macro('Higher', 0.5, [eq, 'shift', -1.5, 1.5])
      c.macro('Deeper', 0.5, [eq, 'amount', 0, 2])
    },
  ),
]
