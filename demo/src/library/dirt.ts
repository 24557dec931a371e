import { type LibraryChain, chain } from './chain-maker'

/** Chains that add dirt: folds, drives, crushing, and distortion by bands. */
export const dirt: readonly LibraryChain[] = [
  chain(
    'A sine turned rich',
    'Folds in series with an offset: many harmonics from one',
    {
      tags: ['dirt', 'colour'],
      for: ['synth', 'bass'],
      on: 'sine',
      point: { figure: { of: 'band', from: 330, to: 20_000 }, least: 20 },
    },
    (c) => {
      const first = c.add('folder', { gain: 14, upper: 0.5, lower: -0.6, offset: 0.1, folds: 3, makeup: -4 })
      const second = c.add('folder', { gain: 6, folds: 2, makeup: -2 })
      const tone = c.add('filter', { cutoff: 6000, resonance: 0.7 })
      c.lfo('Breath', { rate: 0.37 }, [first, 'gain', 10, 18])
      c.macro('Richer', 0.45, [first, 'gain', 0, 30], [second, 'gain', 0, 18])
      c.macro('Uneven', 0.5, [first, 'offset', -0.4, 0.5])
      c.macro('Darker', 0.3, [tone, 'cutoff', 16_000, 900])
    },
  ),
  chain(
    'Fold that follows',
    'A follower opens the fold: soft notes stay clean',
    {
      tags: ['dirt', 'movement'],
      for: ['guitar', 'bass', 'synth'],
      point: { figure: { of: 'unlike' }, least: 0.8 },
    },
    (c) => {
      const fold = c.add('folder', { gain: 8, makeup: -5 }, 'First fold')
      const ear = c.mod('follower', 'Touch', { sensitivity: 12, attack: 0.004, release: 0.2 }, [
        fold,
        'gain',
        2,
        22,
      ])
      c.macro('More answer', 0.5, [ear, 'sensitivity', 0, 24])
      c.macro('Mix', 0.8, [fold, 'wet', 0, 1])
    },
  ),
  chain(
    'A new snare out of an old one',
    'Hard compression, dirt, a tuned comb, and a fast LFO for rasp',
    {
      job: 'a new snare',
      tags: ['dirt', 'rhythm', 'colour'],
      for: ['drums'],
      on: 'snare',
      point: { figure: { of: 'unlike' }, least: 1 },
    },
    (c) => {
      const comp = c.add('compressor', { threshold: -30, ratio: 6, attack: 0.006, release: 0.08, makeup: 6 })
      const drive = c.add('drive', { drive: 14, curve: 3, output: -7, quality: 2 })
      const comb = c.add('comb', { frequency: 233, feedback: 0.86, damping: 8000, wet: 0.45 })
      const rasp = c.lfo('Rasp', { rate: 23.7 }, [comb, 'frequency', 190, 290])
      c.macro('Harder', 0.4, [comp, 'threshold', -16, -44], [drive, 'drive', 4, 30])
      c.macro('Ring', 0.55, [comb, 'wet', 0, 0.8], [comb, 'feedback', 0.5, 0.96])
      c.macro('Rasp', 0.35, [rasp, 'rate', 3, 60])
    },
  ),
  chain(
    'Distortion by bands',
    'Three bands, a different distortion on each, merged without a dent',
    {
      job: 'split distortion distortion by bands',
      tags: ['dirt', 'colour'],
      for: ['guitar', 'bass', 'drums'],
      point: { figure: { of: 'unlike' }, least: 2 },
    },
    (c) => {
      const low = c.fx('drive', { quality: 2 }, 'Warm planks')
      const body = c.fx('folder', {}, 'First fold')
      const air = c.fx('crush', {}, 'Rusty clock')
      const split = c.split('bands', { weight: [low], body: [body], air: [air] }, [], {
        cross1: 220,
        cross2: 1900,
      })
      c.add('limiter', { ceiling: -2 })
      c.macro('Weight', 0.4, [low, 'drive', 0, 30])
      c.macro('Body', 0.4, [body, 'gain', 0, 24])
      c.macro('Rust', 0.4, [air, 'rate', 40_000, 3000])
      c.macro('Air', 0.6, [split.branches[2] ?? '', 'level', -24, 6])
    },
  ),
  chain(
    'Warm planks',
    'Soft saturation with weight kept below',
    {
      tags: ['dirt', 'colour'],
      for: ['mix', 'drums', 'bass'],
      point: { figure: { of: 'crest' }, least: -0.3 },
    },
    (c) => {
      const drive = c.add('drive', { quality: 2 }, 'Warm planks')
      const eq = c.add('eq', { amount: 0.5 }, 'Weight and air')
      c.macro('Warmer', 0.3, [drive, 'drive', 0, 24])
      c.macro('Tilt', 0.5, [eq, 'amount', -0.5, 1.5])
    },
  ),
  chain(
    'Torn bass',
    'Low end stays, the rest is torn and follows the playing',
    {
      tags: ['dirt', 'movement'],
      for: ['bass', 'synth'],
      point: { figure: { of: 'brightness' }, least: 0.5 },
    },
    (c) => {
      const torn = c.fx('drive', { quality: 2 }, 'Torn sail')
      const band = c.fx('filter', { cutoff: 1200, shape: 1, resonance: 0.9 })
      const split = c.split('bands', { low: [], high: [torn, band] }, [0, 3], { cross1: 140 })
      c.mod('follower', 'Pluck', { sensitivity: 10, release: 0.15 }, [band, 'cutoff', 700, 3200])
      c.macro('Torn', 0.6, [torn, 'drive', 6, 40])
      c.macro('Above', 0.7, [split.branches[1] ?? '', 'level', -24, 9])
    },
  ),
  chain(
    'Engine room',
    'Heavy drive into a speaker and a short room',
    {
      tags: ['dirt', 'space'],
      for: ['guitar', 'drums', 'synth'],
      point: { figure: { of: 'crest' }, least: -2 },
    },
    (c) => {
      const drive = c.add('drive', { quality: 2 }, 'Engine room')
      c.add('convolver', { wet: 0.7 }, 'Small speaker')
      const room = c.add('reverb', { wet: 0.14 }, 'Wheelhouse')
      c.macro('Hotter', 0.5, [drive, 'drive', 6, 40])
      c.macro('Room', 0.2, [room, 'wet', 0, 0.6])
    },
  ),
  chain(
    'Rusty clock',
    'Sample rate and bits fall with a stepped LFO',
    { tags: ['dirt', 'rhythm'], for: ['drums', 'synth'], point: { figure: { of: 'unlike' }, least: 1.5 } },
    (c) => {
      const crush = c.add('crush', { wet: 0.8, bits: 8, rate: 9000 }, 'Rusty clock')
      const lfo = c.lfo('Cog', { shape: 5, sync: 1, length: 0.5 }, [crush, 'rate', 2200, 16_000])
      c.macro('Rustier', 0.5, [crush, 'bits', 12, 3], [crush, 'jitter', 0, 0.6])
      c.macro('Faster', 0.6, [lfo, 'length', 2, 0.125])
      c.macro('Mix', 0.8, [crush, 'wet', 0, 1])
    },
  ),
  chain(
    'Stairs',
    'A drawn curve in steps, softened by a filter that answers',
    { tags: ['dirt'], for: ['synth', 'bass', 'voice'], point: { figure: { of: 'unlike' }, least: 1.5 } },
    (c) => {
      const shaper = c.add('shaper', { gain: 12, quality: 2 }, 'Stairs')
      const f = c.add('filter', { cutoff: 3000, resonance: 1.4 })
      c.mod('follower', 'Answer', { sensitivity: 14 }, [f, 'cutoff', 1200, 8000])
      c.macro('Steeper', 0.5, [shaper, 'gain', -6, 30])
      c.macro('Mix', 0.9, [shaper, 'wet', 0, 1])
    },
  ),
  chain(
    'Octave from a rectifier',
    'A rectifier doubles the pitch, a notch takes the rest',
    {
      tags: ['dirt', 'colour'],
      for: ['guitar', 'bass'],
      on: 'sine',
      point: { figure: { of: 'band', from: 400, to: 20_000 }, least: 15 },
    },
    (c) => {
      const shaper = c.add('shaper', { quality: 2, gain: 12 }, 'Rectifier')
      const cut = c.add('filter', { cutoff: 90, shape: 2 })
      c.macro('Octave', 0.85, [shaper, 'wet', 0, 1])
      c.macro('Thinner', 0.2, [cut, 'cutoff', 30, 500])
    },
  ),
  chain(
    'Gravel under the keel',
    'Noise that follows the level, multiplied into the sound',
    {
      tags: ['dirt', 'colour'],
      for: ['bass', 'voice', 'drums'],
      point: { figure: { of: 'band', from: 2000, to: 20_000 }, least: 2 },
    },
    (c) => {
      const gravel = c.add('noise-layer', { level: -4 }, 'Gravel')
      const drive = c.add('drive', { drive: 8, output: -5, quality: 2 })
      c.lfo('Roll', { rate: 0.6, shape: 6 }, [gravel, 'frequency', 1200, 5200])
      c.macro('Gravel', 0.6, [gravel, 'level', -30, 6])
      c.macro('Grit', 0.3, [drive, 'drive', 0, 24])
    },
  ),
  chain(
    'Breath on the notes',
    'Added breath, loud where the notes are',
    {
      tags: ['dirt', 'voice'],
      for: ['voice', 'pad', 'synth'],
      point: { figure: { of: 'band', from: 3000, to: 20_000 }, least: 3 },
    },
    (c) => {
      const breath = c.add('noise-layer', { level: -8 }, 'Breath')
      const air = c.add('filter', { cutoff: 80, shape: 2 })
      c.macro('Breath', 0.6, [breath, 'level', -36, 3])
      c.macro('Higher', 0.5, [breath, 'frequency', 1200, 9000])
      c.macro('Thinner', 0.1, [air, 'cutoff', 30, 900])
    },
  ),
  chain(
    'Pressed drums',
    'A crushed copy under the dry kit, lifted from below',
    { tags: ['dirt', 'rhythm'], for: ['drums', 'mix'], point: { figure: { of: 'fill' }, least: 3 } },
    (c) => {
      const comp = c.fx('compressor', {
        threshold: -34,
        ratio: 12,
        attack: 0.001,
        release: 0.08,
        makeup: 12,
        upThreshold: -44,
        upRatio: 3,
      })
      const drive = c.fx('drive', { drive: 10, output: -6, quality: 2 })
      const split = c.split('copies', { dry: [], pressed: [comp, drive] }, [-4, -4])
      c.macro('Pressed', 0.7, [split.branches[1] ?? '', 'level', -30, 3])
      c.macro('Faster', 0.5, [comp, 'release', 0.4, 0.02])
    },
  ),
  chain(
    'Harder sticks',
    'Transients sharpened, tails shortened, a clean ceiling',
    { tags: ['rhythm', 'dirt'], for: ['drums', 'guitar'], point: { figure: { of: 'crest' }, least: 0.5 } },
    (c) => {
      const sticks = c.add('transient', { attack: 7, sustain: -6 }, 'Harder sticks')
      c.add('limiter', { ceiling: -1.5 })
      c.macro('Harder', 0.6, [sticks, 'attack', -6, 15])
      c.macro('Shorter', 0.5, [sticks, 'sustain', 6, -18])
    },
  ),
  chain(
    'Flat calm',
    'Everything at one level: a limiter that breathes with the bar',
    {
      tags: ['dirt', 'rhythm'],
      for: ['mix', 'drums', 'guitar'],
      point: { figure: { of: 'crest' }, least: -2 },
    },
    (c) => {
      const lift = c.add('compressor', {}, 'Lift quiet parts')
      const limit = c.add('limiter', { gain: 6 }, 'Breathing')
      c.lfo('Breath', { sync: 1, length: 4 }, [limit, 'gain', 4, 10])
      c.macro('Calmer', 0.6, [limit, 'gain', 0, 26], [lift, 'threshold', -18, -42])
    },
  ),
  chain(
    'Tin can choir',
    'A fold, a comb and a chorus: many small metal voices',
    {
      tags: ['dirt', 'colour', 'movement'],
      for: ['voice', 'guitar'],
      point: { figure: { of: 'unlike' }, least: 1.5 },
    },
    (c) => {
      const tin = c.add('folder', { wet: 0.6 }, 'Crumpled tin')
      c.add('comb', { wet: 0.35 }, 'Thin wall')
      const choir = c.add('chorus', {}, 'Choir in the hold')
      c.macro('Tin', 0.6, [tin, 'wet', 0, 1])
      c.macro('Choir', 0.5, [choir, 'cents', 0.02, 0.4], [choir, 'wet', 0.1, 0.9])
    },
  ),
]
