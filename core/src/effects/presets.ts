import { firstShape } from './shaper'
import { ownFrom } from './vowel'

/** One effect set up for something; what is missing stands at its default. */
export interface EffectPreset {
  readonly name: string
  readonly params: Readonly<Record<string, number>>
  readonly lanes?: Readonly<Record<string, readonly Readonly<Record<string, number>>[]>>
  readonly data?: Readonly<Record<string, unknown>>
}

const strings = (notes: readonly number[], gain = 0.5): EffectPreset['lanes'] => ({ voices: notes.map((note) => ({ note, gain })) })
const bands = (list: readonly (readonly [kind: number, frequency: number, gain: number, q?: number, slope?: number])[]): EffectPreset['lanes'] =>
  ({ bands: list.map(([kind, frequency, gain, q = 1, slope = 0]) => ({ kind, frequency, gain, q, slope })) })

/** Starting points that ship with each effect, by its id. A split or a chain of several effects is kept as a preset of its own. */
export const effectPresets: Readonly<Record<string, readonly EffectPreset[]>> = {
  'gain': [
    { name: 'Half as loud', params: { level: -10 } }, { name: 'Upside down', params: { mode: 1, factor: -1 } },
    { name: 'Ready to swing through zero', params: { mode: 1, factor: 0.5 } }, { name: 'Six up', params: { level: 6 } },
  ],
  'stereo': [
    { name: 'Wide deck', params: { width: 1.5, monoBelow: 150 } }, { name: 'One mast', params: { width: 0 } },
    { name: 'Feet together', params: { monoBelow: 220 } }, { name: 'Other way round', params: { channels: 1, side: -2 } },
  ],
  'tremolo': [
    { name: 'Lamp in the wind', params: { rate: 5.2, depth: 0.5 } }, { name: 'Eighths, chopped', params: { sync: 1, length: 0.5, shape: 4, depth: 0.95, slew: 0.004 } },
    { name: 'From rail to rail', params: { rate: 1.1, depth: 0.8, stereo: 0.5 } }, { name: 'Pump on the beat', params: { sync: 1, length: 1, shape: 2, depth: 0.85, slew: 0.01 } },
  ],
  'filter': [
    { name: 'Below the water', params: { cutoff: 420, resonance: 1.1, slope: 1 } }, { name: 'Telephone to shore', params: { cutoff: 1500, resonance: 1.6, shape: 1, output: 4 } },
    { name: 'Spray only', params: { cutoff: 1800, shape: 2, resonance: 0.9, output: 6 } }, { name: 'Whistling corner', params: { cutoff: 900, resonance: 9, slope: 1, drive: 6, output: -4 } }, { name: 'Hole in the fog', params: { cutoff: 700, shape: 3, resonance: 1.2 } },
  ],
  'eq': [
    { name: 'Room for a voice', params: {}, lanes: bands([[3, 90, 0, 0.7, 1], [0, 320, -3, 1.2], [0, 2800, -4, 1.1], [2, 9000, 2, 0.7]]) },
    { name: 'Weight and air', params: {}, lanes: bands([[1, 110, 4, 0.7], [0, 500, -3, 1], [2, 8000, 4, 0.7]]) },
    { name: 'Wooden box', params: {}, lanes: bands([[0, 240, 7, 3], [0, 610, 6, 4], [0, 1450, 4, 5], [4, 6000, 0, 0.7, 1]]) },
    { name: 'Growl in four poses', params: { travel: 0.3 }, lanes: bands([[0, 300, 9, 3], [0, 1100, 9, 4], [0, 2600, 6, 4]]), data: { poses: [
      { at: 0, ease: 0, bands: [{ frequency: 240, gain: 12, q: 3 }, { frequency: 700, gain: 6, q: 4 }, { frequency: 2400, gain: 2, q: 3 }] },
      { at: 0.33, ease: 0.4, bands: [{ frequency: 520, gain: 14, q: 4 }, { frequency: 1300, gain: 9, q: 5 }, { frequency: 2600, gain: 4, q: 4 }] },
      { at: 0.66, ease: -0.5, bands: [{ frequency: 380, gain: 10, q: 3 }, { frequency: 2100, gain: 14, q: 6 }, { frequency: 3100, gain: 8, q: 4 }] },
      { at: 1, ease: 0.2, bands: [{ frequency: 900, gain: 13, q: 4 }, { frequency: 1700, gain: 4, q: 4 }, { frequency: 4200, gain: 9, q: 5 }] },
    ] } },
  ],
  'vowel': [
    { name: 'Ah', params: { position: 4 / 9, amount: 1 } }, { name: 'Giant says oo', params: { position: 7 / 9, size: 1.4, amount: 1.2 } },
    { name: 'Small and bright', params: { mode: 1, open: 0.3, front: 0.95, size: 0.75 } }, { name: 'Barely speaking', params: { position: 0.3, amount: 0.45, width: 1.8, dry: 0.3 } },
    { name: 'Two words of one’s own', params: { mode: 2, position: 0.5 }, data: { vowels: [ownFrom(0), ownFrom(4), ownFrom(7)] } },
  ],
  'vocoder': [
    { name: 'Few planks', params: { bands: 10, release: 0.05 } }, { name: 'Clear words', params: { bands: 36, attack: 0.002, release: 0.025, unvoiced: 0.8 } },
    { name: 'Smaller throat', params: { shift: 5, bands: 24 } }, { name: 'Fog that remembers', params: { bands: 28, attack: 0.05, release: 1.2 } },
  ],
  'all-pass': [
    { name: 'Smeared hit', params: { order: 1, stages: 48, frequency: 400, resonance: 1.2 } }, { name: 'One turn', params: { order: 1, frequency: 900 } },
    { name: 'For adding to dry', params: { order: 0, frequency: 600 } }, { name: 'Falling drop', params: { order: 1, stages: 24, frequency: 1400, resonance: 3 } },
  ],
  'comb': [
    { name: 'Pipe in D', params: { frequency: 146.83, feedback: 0.9, damping: 7000, wet: 0.5 } }, { name: 'Hollow reed', params: { frequency: 220, feedback: -0.88, damping: 5000, wet: 0.5 } },
    { name: 'Thin wall', params: { frequency: 900, feedback: 0.6, wet: 0.6 } }, { name: 'Almost singing', params: { frequency: 110, feedback: 0.985, damping: 12_000, wet: 0.35 } },
  ],
  'resonators': [
    { name: 'Rigging in D minor', params: { decay: 1.4 }, lanes: strings([50, 57, 62, 65, 69]) }, { name: 'Open fifths', params: { decay: 2.2, damping: 9000 }, lanes: strings([38, 45, 50, 57, 62], 0.35) },
    { name: 'Small bells', params: { decay: 0.8, damping: 14_000 }, lanes: strings([74, 81, 86, 89], 0.4) }, { name: 'Dull drum shells', params: { decay: 0.25, damping: 2500 }, lanes: strings([43, 50, 55], 0.7) },
  ],
  'phaser': [
    { name: 'Slow swell', params: { rate: 0.08, depth: 0.8 } }, { name: 'Sharp edges', params: { stages: 10, feedback: 0.75, rate: 0.2 } },
    { name: 'Standing, to be moved', params: { depth: 0, stages: 8, feedback: 0.5 } }, { name: 'Hollow', params: { feedback: -0.7, rate: 0.5, depth: 0.5 } },
  ],
  'drive': [
    { name: 'Warm planks', params: { drive: 9, curve: 3, output: -4 } }, { name: 'Engine room', params: { drive: 24, curve: 1, lowCut: 120, tone: 6000, output: -10 } },
    { name: 'Torn sail', params: { range: 2, drive: 12, curve: 2, tone: 8000, output: -14 } }, { name: 'Leaning over', params: { drive: 14, curve: 5, asymmetry: 0.6, output: -6 } }, { name: 'Soft valve', params: { drive: 12, curve: 6, asymmetry: 0.25, before: 9000, output: -5 } },
  ],
  'folder': [
    { name: 'First fold', params: { gain: 9, folds: 1, makeup: -3 } }, { name: 'Rich from a sine', params: { gain: 16, folds: 4, makeup: -6 } },
    { name: 'Uneven', params: { gain: 12, upper: 0.4, lower: -0.9, makeup: -3 } }, { name: 'Crumpled tin', params: { gain: 26, folds: 8, offset: 0.2, makeup: -9 } },
  ],
  'shaper': [
    { name: 'Soft shoulder', params: { gain: 9, output: -4 }, data: { points: firstShape } },
    { name: 'Stairs', params: { gain: 3, output: -6 }, data: { points: [0, 0.2, 0.4, 0.6, 0.8].flatMap((x) => [{ x, y: x + 0.1, bend: 0 }, { x: x + 0.19, y: x + 0.1, bend: 0 }]) } },
    { name: 'Rectifier', params: { gain: 0, output: -3 }, data: { points: [{ x: 0, y: 0.95, bend: 0 }, { x: 0.5, y: 0.5, bend: 0 }, { x: 1, y: 0.95, bend: 0 }] } },
    { name: 'Dead middle', params: { gain: 9, output: -3, mirror: 1 }, data: { points: [{ x: 0, y: 0, bend: 0 }, { x: 0.5, y: 0.5, bend: 0 }, { x: 0.56, y: 0.5, bend: -0.2 }, { x: 1, y: 0.95, bend: 0 }] } },
  ],
  'crush': [
    { name: 'Ship’s radio', params: { bits: 7, rate: 8000, smooth: 1 } }, { name: 'Twelve steps', params: { bits: 3.6, rate: 48_000 } },
    { name: 'Rusty clock', params: { bits: 10, rate: 5200, jitter: 0.6 } }, { name: 'Almost whole', params: { bits: 12, rate: 26_000 } },
  ],
  'ring': [
    { name: 'Bell buoy', params: { frequency: 413, depth: 1 } }, { name: 'Quick shiver', params: { frequency: 27, depth: 0.7 } },
    { name: 'Tin', params: { frequency: 1733, by: 1, depth: 0.6 } }, { name: 'By another track', params: { by: 3, depth: 1 } },
  ],
  'noise-layer': [
    { name: 'Breath', params: { level: -14, frequency: 5000, resonance: 0.7, attack: 0.01 } }, { name: 'Gravel', params: { how: 1, level: -6, frequency: 900, resonance: 0.8 } },
    { name: 'Rattle wires', params: { level: -10, frequency: 4200, resonance: 0.6, release: 0.18 } }, { name: 'Whistle', params: { level: -16, frequency: 2600, resonance: 14 } },
  ],
  'compressor': [
    { name: 'Gentle hand', params: { threshold: -22, ratio: 2, knee: 12, attack: 0.02, release: 0.2, makeup: 2 } }, { name: 'Drum room', params: { threshold: -34, ratio: 12, attack: 0.002, release: 0.09, makeup: 8, parallel: -3 } },
    { name: 'Lift what is quiet', params: { ratio: 1, upThreshold: -30, upRatio: 3, attack: 0.02, release: 0.2 } }, { name: 'Duck to a sidechain', params: { threshold: -36, ratio: 6, attack: 0.004, release: 0.22, knee: 6 } }, { name: 'Knows beforehand', params: { threshold: -20, ratio: 8, attack: 0.002, release: 0.08, ahead: 2, makeup: 4 } },
  ],
  'gate': [
    { name: 'Short drums', params: { threshold: -30, hold: 0.04, release: 0.05 } }, { name: 'Closes dark', params: { how: 1, threshold: -28, release: 0.25, range: -60 } },
    { name: 'Slow door', params: { how: 2, threshold: -34, attack: 0.03, release: 0.6 } }, { name: 'Half closed', params: { threshold: -32, range: -12 } },
  ],
  'limiter': [
    { name: 'Safe', params: { ceiling: -1 } }, { name: 'Louder', params: { gain: 6, ceiling: -1, release: 0.06 } },
    { name: 'Breathing', params: { gain: 9, ceiling: -2, release: 0.5 } }, { name: 'Flat calm', params: { gain: 14, ceiling: -3, release: 0.02 } },
  ],
  'transient': [
    { name: 'Harder sticks', params: { attack: 9 } }, { name: 'Padded', params: { attack: -9, sustain: 3 } },
    { name: 'Dry room', params: { attack: 3, sustain: -12 } }, { name: 'Long tails', params: { attack: 0, sustain: 9, length: 0.06 } },
  ],
  'delay': [
    { name: 'Across the quay', params: { sync: 1, length: 0.75, feedback: 0.4, path: 1, wet: 0.35 } }, { name: 'Slap', params: { time: 0.095, feedback: 0.08, wet: 0.4 } },
    { name: 'Dark tape', params: { time: 0.38, feedback: 0.6, highCut: 2600, lowCut: 140, saturation: 9, wet: 0.35 } }, { name: 'Metal tube', params: { time: 0.006, feedback: 0.8, wet: 0.5 } },
  ],
  'reverb': [
    { name: 'Wheelhouse', params: { decay: 0.6, wet: 0.25 } }, { name: 'Empty hold', params: { decay: 4.5, wet: 0.35 } },
    { name: 'Night harbour', params: { decay: 9, wet: 0.3 } }, { name: 'Behind it all', params: { decay: 2.2, wet: 0.15 } },
  ],
  'convolver': [
    { name: 'Cabin', params: { wet: 0.4 }, data: { impulse: 'cabin' } }, { name: 'Through a small speaker', params: { output: 0 }, data: { impulse: 'speaker' } },
    { name: 'Spring under the deck', params: { wet: 0.35 }, data: { impulse: 'spring' } }, { name: 'Swell before it', params: { wet: 0.5 }, data: { impulse: 'swell' } },
    { name: 'Hold, turned round', params: { wet: 0.45 }, data: { impulse: 'hold', reverse: true, end: 0.5 } }, { name: 'Across a bottle', params: { wet: 0.7, output: -6 }, data: { impulse: 'bottle', stretch: 1.5 } },
  ],
}
