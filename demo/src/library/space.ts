import { updateLink } from '@oleaje/core/project/motion-edits'
import { type LibraryChain, chain } from './chain-maker'

/** Chains of rooms, grains and texture, and those that follow and steer. */
export const space: readonly LibraryChain[] = [
  chain(
    'A living reverb',
    'A gated, moving room beside the dry sound',
    {
      tags: ['space', 'movement'],
      for: ['guitar', 'voice', 'drums'],
      point: { figure: { of: 'width' }, least: 3 },
    },
    (c) => {
      const gate = c.fx('gate', { threshold: -34, attack: 0.002, hold: 0.05, release: 0.12 })
      const room = c.fx('reverb', { decay: 3, motion: 0.7, motionRate: 2.4, early: 0.2 })
      const split = c.split('copies', { dry: [], room: [gate, room] }, [-3, -4])
      const size = c.lfo('Breath', { rate: 0.19 }, [room, 'highs', 0.25, 0.9], [room, 'motion', 0.3, 1])
      c.mod('drift', 'Weather', { speed: 0.3 }, [room, 'decay', 2, 4.5])
      c.macro('More room', 0.8, [split.branches[1] ?? '', 'level', -36, 0])
      c.macro('Gate', 0.5, [gate, 'threshold', -60, -12])
      c.macro('Livelier', 0.4, [size, 'rate', 0.05, 2])
    },
  ),
  chain(
    'Gated snare room',
    'A big room cut off by a gate',
    {
      tags: ['space', 'rhythm'],
      for: ['drums'],
      on: 'snare',
      point: { figure: { of: 'crest' }, least: -1.5 },
    },
    (c) => {
      const room = c.fx('reverb', { decay: 2.6, character: 2, wet: 1 })
      const gate = c.fx('gate', { threshold: -32, hold: 0.16, release: 0.03, range: -80 }, 'Short drums')
      const split = c.split('copies', { dry: [], room: [room, gate] }, [-2, -2])
      c.macro('More room', 0.9, [split.branches[1] ?? '', 'level', -36, 0])
      c.macro('Longer', 0.2, [gate, 'hold', 0.02, 0.8])
    },
  ),
  chain(
    'Shimmer',
    'Each pass through the room is an octave higher',
    {
      job: 'pedals from parts shimmer',
      tags: ['space', 'time'],
      for: ['pad', 'guitar', 'synth'],
      point: { figure: { of: 'unlike' }, least: 0.5 },
    },
    (c) => {
      const up = c.fx('pitch', { quality: 1, pitch: 12 })
      const room = c.fx('reverb', { decay: 3.5, wet: 0.7, lowCut: 180 })
      const loop = c.loop({ sync: 1, length: 1, feedback: 0.55, highCut: 9000, wet: 0.5 }, [up, room])
      c.macro('Heaven', 0.5, [loop, 'feedback', 0.2, 0.85])
      c.macro('More', 0.5, [loop, 'wet', 0, 1])
    },
  ),
  chain(
    'Pre-drop blur',
    'One macro dissolves the loop before the drop: slices, echoes, room, and the top goes',
    {
      job: 'a pre-drop blur',
      tags: ['space', 'rhythm', 'time'],
      for: ['drums', 'mix', 'bass'],
      point: {
        figure: { of: 'band', from: 4000, to: 20_000 },
        least: -20,
        at: { Blur: 1 },
        against: { Blur: 0 },
      },
    },
    (c) => {
      const hold = c.add('stutter', {}, 'Pre-drop, by Hold')
      const echo = c.add('delay', {
        sync: 1,
        length: 0.25,
        feedback: 0.7,
        pingPong: 1,
        diffusion: 0.6,
        wet: 0.1,
      })
      const room = c.add('reverb', { decay: 5, wet: 0.1 })
      const top = c.add('filter', { cutoff: 18_000, slope: 1 })
      const wide = c.add('stereo', { width: 1 })
      c.add('limiter', { ceiling: -1.5 })
      c.macro(
        'Blur',
        0.1,
        [hold, 'hold', 0, 1],
        [echo, 'wet', 0.05, 0.6],
        [room, 'wet', 0.05, 0.7],
        [top, 'cutoff', 20_000, 700],
        [wide, 'width', 1, 1.8],
      )
      c.macro('Longer', 0.5, [echo, 'feedback', 0.3, 0.95], [room, 'decay', 2, 12])
    },
  ),
  chain(
    'Very low glide',
    'A bass bent down and up by seconds, wide and far at the top',
    {
      job: 'a pre-drop blur bass glide',
      tags: ['time', 'space', 'movement'],
      for: ['bass', 'synth'],
      point: { figure: { of: 'width' }, least: 6 },
    },
    (c) => {
      const tape = c.add('pitch', { pitch: -5, quality: 0, wet: 0.6 })
      const echo = c.add('delay', {
        sync: 1,
        length: 0.75,
        feedback: 0.75,
        pingPong: 1,
        lowCut: 300,
        wet: 0.35,
      })
      const cut = c.add('eq', {}, 'Room for a voice')
      const glide = c.lfo('Glide', { sync: 1, length: 8, shape: 2 }, [tape, 'pitch', -12, 7])
      c.lfo('Push', { rate: 0.17 }, [cut, 'amount', 0.2, 1.8])
      c.macro('Longer glide', 0.4, [glide, 'length', 2, 16])
      c.macro('More echo', 0.35, [echo, 'wet', 0, 0.9])
    },
  ),
  chain(
    'Metal rain',
    'Dry beside flanger, tuned resonators and grains',
    {
      job: 'texture',
      tags: ['space', 'colour', 'movement'],
      for: ['drums', 'synth'],
      on: 'hat',
      point: { figure: { of: 'fill' }, least: 6 },
    },
    (c) => {
      const jet = c.fx('flanger', {}, 'Jet over the bay')
      const bells = c.fx('resonators', {}, 'Small bells')
      const grains = c.fx('grains', {}, 'Fog over the water')
      const split = c.split('copies', { dry: [], rain: [jet, bells, grains] }, [-3, -2])
      c.macro('Rain', 0.8, [split.branches[1] ?? '', 'level', -36, 3])
      c.macro('Longer', 0.4, [bells, 'decay', 0.1, 6])
      c.macro('Thicker', 0.4, [grains, 'overlap', 1, 12])
    },
  ),
  chain(
    'Fog over the water',
    'Long soft grains of the last second, spread wide',
    {
      job: 'texture',
      tags: ['space', 'time'],
      for: ['guitar', 'pad', 'voice'],
      point: { figure: { of: 'width' }, least: 2 },
    },
    (c) => {
      const grains = c.add('grains', { wet: 0.6 }, 'Fog over the water')
      const room = c.add('reverb', { wet: 0.25 }, 'Night harbour')
      c.mod('drift', 'Current', { speed: 0.3 }, [grains, 'place', 0, 0.2])
      c.macro('Thicker', 0.4, [grains, 'overlap', 1, 14], [grains, 'size', 0.03, 0.5])
      c.macro('Freeze', 0, [grains, 'freeze', 0, 1])
      c.macro('More fog', 0.6, [grains, 'wet', 0, 1], [room, 'wet', 0.1, 0.5])
    },
  ),
  chain(
    'Backwards confetti',
    'Short grains, many of them backwards, in octaves',
    {
      job: 'texture glitch',
      tags: ['time', 'rhythm'],
      for: ['drums', 'guitar', 'synth'],
      point: { figure: { of: 'fill' }, least: 2 },
    },
    (c) => {
      const grains = c.add('grains', { wet: 0.6 }, 'Backwards confetti')
      c.lfo('Throw', { sync: 1, length: 2, shape: 6 }, [grains, 'scatter', 0, 0.15])
      c.macro('More', 0.6, [grains, 'wet', 0, 1])
      c.macro('Finer', 0.4, [grains, 'size', 0.2, 0.01])
    },
  ),
  chain(
    'Minor swarm',
    'Grains on a minor scale around each note',
    {
      tags: ['time', 'colour', 'space'],
      for: ['synth', 'pad', 'voice'],
      point: { figure: { of: 'unlike' }, least: 0.6 },
    },
    (c) => {
      const grains = c.add('grains', { wet: 0.5 }, 'Minor swarm')
      const room = c.add('reverb', { wet: 0.2, decay: 2.5 })
      c.macro('Swarm', 0.5, [grains, 'wet', 0, 1])
      c.macro('Wider pitch', 0.5, [grains, 'pitchScatter', 0, 24])
      c.macro('Room', 0.2, [room, 'wet', 0, 0.7])
    },
  ),
  chain(
    'Two reels',
    'Flanging through zero, as with two tape machines',
    {
      tags: ['movement', 'time'],
      for: ['guitar', 'drums', 'mix'],
      point: { figure: { of: 'sameness' }, least: -10 },
    },
    (c) => {
      const reels = c.add('flanger', {}, 'Two reels')
      c.mod('drift', 'Thumb', { speed: 0.5 }, [reels, 'place', -0.7, 0.7])
      c.macro('Deeper', 0.5, [reels, 'feedback', -0.2, 0.9])
      c.macro('More', 0.5, [reels, 'mix', 0, 1])
    },
  ),
  chain(
    'Hold of the ship',
    'A dark, long room with early walls',
    { tags: ['space'], for: ['drums', 'voice', 'guitar'], point: { figure: { of: 'fill' }, least: 4 } },
    (c) => {
      const room = c.add('reverb', { wet: 0.4 }, 'Cargo hold')
      const cut = c.add('filter', { cutoff: 9000 })
      c.macro('Larger', 0.5, [room, 'size', 0.3, 1], [room, 'decay', 1, 9])
      c.macro('More room', 0.4, [room, 'wet', 0, 1])
      c.macro('Darker', 0.3, [cut, 'cutoff', 18_000, 1500])
    },
  ),
  chain(
    'Ducked room',
    'A long room that makes way for the hits',
    { tags: ['space', 'rhythm'], for: ['drums', 'mix'], point: { figure: { of: 'fill' }, least: 2 } },
    (c) => {
      const room = c.add('reverb', { wet: 0.5 }, 'Ducked by the drums')
      c.macro('Ducking', 0.5, [room, 'duck', 0, 36])
      c.macro('Longer', 0.4, [room, 'decay', 0.6, 8])
      c.macro('More room', 0.5, [room, 'wet', 0, 1])
    },
  ),
  chain(
    'Reversed swell',
    'A response that grows before it ends, for soft entries',
    {
      tags: ['space', 'time'],
      for: ['pad', 'guitar', 'voice'],
      point: { figure: { of: 'sameness' }, least: -20 },
    },
    (c) => {
      const swell = c.add('convolver', { wet: 0.5 }, 'Reversed swell')
      const wide = c.add('stereo', {}, 'Wide deck')
      c.macro('More swell', 0.5, [swell, 'wet', 0, 1])
      c.macro('Wider', 0.6, [wide, 'width', 0.4, 2])
    },
  ),
  chain(
    'Frozen harbour',
    'A reverb that one control freezes into a pad',
    {
      tags: ['space', 'movement'],
      for: ['guitar', 'synth', 'voice'],
      point: { figure: { of: 'fill' }, least: 2 },
    },
    (c) => {
      const room = c.add('reverb', { decay: 6, wet: 0.4 }, 'Night harbour')
      const f = c.add('filter', { cutoff: 9000, resonance: 1 })
      c.lfo('Light', { rate: 0.13 }, [f, 'cutoff', 3000, 14_000])
      c.macro('Freeze', 0, [room, 'freeze', 0, 1])
      c.macro('More room', 0.4, [room, 'wet', 0, 1])
    },
  ),
  chain(
    'Bass that ducks with the drums',
    'A follower on another track pushes the level down and the filter open',
    {
      job: 'a bass that ducks or opens with the drums',
      tags: ['movement', 'rhythm'],
      for: ['bass', 'pad', 'synth'],
      point: { figure: { of: 'unlike' }, least: 1 },
    },
    (c) => {
      const f = c.add('filter', { cutoff: 900, resonance: 1.6, slope: 1 })
      const duck = c.add('gain', { level: 0 })
      const ear = c.mod(
        'follower',
        'Drums',
        { attack: 0.006, release: 0.16, sensitivity: 6 },
        [f, 'cutoff', 700, 1900],
        [duck, 'level', 2, -10],
      )
      c.macro('More answer', 0.4, [ear, 'sensitivity', -6, 24])
      c.macro('Brighter', 0.4, [f, 'cutoff', 300, 4000])
    },
  ),
  chain(
    'Guitar through a filter that answers',
    'A follower on a resonant filter with its own amount and decay, and a little room',
    {
      job: 'a guitar through a filter that answers',
      tags: ['movement', 'colour'],
      for: ['guitar', 'bass', 'voice'],
      point: { figure: { of: 'unlike' }, least: 1 },
    },
    (c) => {
      const drive = c.add('drive', { drive: 10, output: -8, quality: 2 })
      const f = c.add('filter', { cutoff: 520, resonance: 4.5, slope: 1 })
      const room = c.add('reverb', { decay: 1.2, wet: 0.12 })
      const touch = c.mod('follower', 'Touch', { attack: 0.008, release: 0.25, sensitivity: 14 }, [
        f,
        'cutoff',
        420,
        3400,
      ])
      c.macro('More answer', 0.5, [touch, 'sensitivity', 0, 30])
      c.macro('Slower', 0.4, [touch, 'release', 0.03, 1.2])
      c.macro('Hotter', 0.3, [drive, 'drive', 0, 30])
      c.macro('Room', 0.2, [room, 'wet', 0, 0.6])
    },
  ),
  chain(
    'One-control riser',
    'One macro: shift up, rising cuts, a noise band, delay and room',
    {
      job: 'a one-control riser riser',
      tags: ['movement', 'space', 'rhythm'],
      for: ['synth', 'mix', 'drums'],
      point: { figure: { of: 'band', from: 20, to: 200 }, least: -10, at: { Rise: 1 }, against: { Rise: 0 } },
    },
    (c) => {
      const pitch = c.add('pitch', { pitch: 0, wet: 1 })
      const cut = c.add('filter', { cutoff: 40, shape: 2, resonance: 1 })
      const noise = c.add('noise-layer', { level: -40, frequency: 900 })
      const echo = c.add('delay', { sync: 1, length: 0.25, feedback: 0.3, wet: 0.08 })
      const room = c.add('reverb', { wet: 0.08, decay: 3 })
      const level = c.add('gain', { level: 0 })
      c.macro(
        'Rise',
        0.2,
        [pitch, 'pitch', 0, 12],
        [cut, 'cutoff', 30, 1500],
        [cut, 'resonance', 0.8, 3],
        [noise, 'level', -50, -6],
        [noise, 'frequency', 700, 9000],
        [echo, 'wet', 0.03, 0.5],
        [echo, 'feedback', 0.2, 0.75],
        [room, 'wet', 0.05, 0.6],
        [level, 'level', 0, -3],
      )
      c.macro('Pitch part', 1, [pitch, 'on', 0, 1])
      c.macro('Noise part', 1, [noise, 'on', 0, 1])
    },
  ),
  chain(
    'Tremolo in several shapes',
    'A tremolo without clicks, its shape and speed at hand',
    {
      job: 'pedals from parts',
      tags: ['movement', 'rhythm'],
      for: ['guitar', 'pad', 'synth'],
      point: { figure: { of: 'movement' }, least: 1.2 },
    },
    (c) => {
      const tremolo = c.add('tremolo', { depth: 0.75, rate: 5.3, shape: 1, slew: 0.004 })
      c.macro('Deeper', 0.75, [tremolo, 'depth', 0, 1])
      c.macro('Faster', 0.5, [tremolo, 'rate', 0.5, 40])
      c.macro('Side to side', 0, [tremolo, 'stereo', 0, 0.5])
    },
  ),
  chain(
    'Chopped eighths',
    'A square tremolo on the grid, with echoes in the gaps',
    {
      tags: ['rhythm', 'movement'],
      for: ['pad', 'synth', 'mix'],
      point: { figure: { of: 'movement' }, least: 4 },
    },
    (c) => {
      const chop = c.add('tremolo', {}, 'Eighths, chopped')
      const echo = c.add('delay', { sync: 1, length: 0.75, feedback: 0.3, wet: 0.12 })
      c.macro('Deeper', 0.9, [chop, 'depth', 0, 1])
      c.macro('Echo', 0.15, [echo, 'wet', 0, 0.6])
    },
  ),
  chain(
    'Wah by an LFO and by touch',
    'A band-pass that an LFO sweeps and the playing opens',
    {
      job: 'pedals from parts',
      tags: ['movement', 'colour'],
      for: ['guitar', 'synth', 'bass'],
      point: { figure: { of: 'movement' }, least: 0.8 },
    },
    (c) => {
      const wah = c.add('filter', { cutoff: 750, shape: 0.9, resonance: 3.6, output: 4 })
      const lfo = c.lfo('Pedal', { sync: 1, length: 1 }, [wah, 'cutoff', 420, 1500])
      const touch = c.mod('follower', 'Touch', { sensitivity: 10 }, [wah, 'cutoff', 750, 1700])
      c.macro('Pedal', 0.5, [wah, 'cutoff', 280, 2000])
      c.macro('Slower', 0.3, [lfo, 'length', 0.25, 4])
      c.macro('Touch', 0.5, [touch, 'sensitivity', 0, 24])
    },
  ),
  chain(
    'Pedal board from parts',
    'Wah, drive, tremolo and echo in one group with one wet',
    {
      job: 'pedals from parts guitar pedal',
      tags: ['movement', 'dirt', 'time'],
      for: ['guitar', 'voice'],
      point: { figure: { of: 'unlike' }, least: 1 },
    },
    (c) => {
      const wah = c.fx('filter', { cutoff: 900, shape: 0.7, resonance: 2.4 })
      const drive = c.fx('drive', { drive: 12, output: -8, quality: 2 })
      const trem = c.fx('tremolo', { depth: 0.4, rate: 4.7 })
      const echo = c.fx('delay', {}, 'Dark tape')
      const board = c.group('Pedal board', [wah, drive, trem, echo])
      c.lfo('Foot', { rate: 0.4 }, [wah, 'cutoff', 500, 1800])
      c.macro('Wet', 0.9, [board, 'wet', 0, 1])
      c.macro('Hotter', 0.3, [drive, 'drive', 0, 36])
      c.macro('Trembling', 0.4, [trem, 'depth', 0, 1])
      c.macro('Echo', 0.3, [echo, 'wet', 0, 0.8])
    },
  ),
  chain(
    'Half closed door',
    'A gate on level and brightness that closes slowly',
    {
      tags: ['rhythm', 'colour'],
      for: ['drums', 'guitar', 'mix'],
      point: { figure: { of: 'fill' }, least: -3 },
    },
    (c) => {
      const door = c.add('gate', { threshold: -22 }, 'Closes dark')
      const room = c.add('reverb', { wet: 0.1 }, 'Wheelhouse')
      c.macro('Closer', 0.5, [door, 'threshold', -50, -8])
      c.macro('Slower', 0.3, [door, 'release', 0.01, 1.5])
      c.macro('Room', 0.15, [room, 'wet', 0, 0.6])
    },
  ),
  chain(
    'Padded drums',
    'Attacks pushed back, tails let out',
    {
      tags: ['rhythm', 'space'],
      for: ['drums'],
      point: { figure: { of: 'fill' }, least: 2 },
    },
    (c) => {
      const pads = c.add('transient', { attack: -10, sustain: 2, length: 0.03 }, 'Padded')
      const soft = c.add('compressor', { threshold: -24, ratio: 3, attack: 0.001, release: 0.2 })
      c.macro('Softer', 0.6, [pads, 'attack', 0, -18], [soft, 'ratio', 1, 6])
      c.macro('Longer', 0.3, [pads, 'sustain', 0, 12])
    },
  ),
  chain(
    'Vocoded by itself, frozen',
    'The sound’s own bands held and moved up',
    {
      tags: ['voice', 'colour', 'space'],
      for: ['voice', 'guitar', 'synth'],
      point: { figure: { of: 'unlike' }, least: 1.5 },
    },
    (c) => {
      const drive = c.add('drive', { drive: 18, output: -10, quality: 2 })
      const fog = c.add('vocoder', {}, 'Fog that remembers')
      c.macro('Smaller', 0.5, [fog, 'shift', -12, 12])
      c.macro('Longer', 0.5, [fog, 'release', 0.02, 1.5])
      c.macro('Grit', 0.4, [drive, 'drive', 0, 36])
    },
  ),
  chain(
    'Shiver by ring',
    'A quick ring modulation whose speed walks',
    {
      tags: ['movement', 'dirt'],
      for: ['synth', 'voice', 'guitar'],
      point: { figure: { of: 'unlike' }, least: 0.2 },
    },
    (c) => {
      const ring = c.add('ring', { wet: 0.6 }, 'Quick shiver')
      const walk = c.mod('drift', 'Walk', { kind: 1, speed: 1.2 }, [ring, 'frequency', 6, 38])
      c.macro('More', 0.6, [ring, 'wet', 0, 1])
      c.macro('Restless', 0.4, [walk, 'speed', 0.1, 8])
    },
  ),
  chain(
    'Odd lengths',
    'A curve of three and a half bars and steps of seven: it never repeats soon',
    {
      tags: ['movement', 'colour'],
      for: ['synth', 'pad'],
      point: { figure: { of: 'movement' }, least: 0.5 },
    },
    (c) => {
      const f = c.add('filter', { cutoff: 1400, resonance: 3, shape: 0.5, output: 2 })
      const echo = c.add('delay', { sync: 1, length: 0.5, feedback: 0.25, wet: 0.18 })
      const curve = c.mod('curve', 'Three and a half', { length: 7 }, [f, 'cutoff', 500, 4200])
      c.mod('steps', 'Seven', { length: 0.25 }, [f, 'resonance', 1.4, 6])
      c.edit((p) => {
        for (const l of p.links)
          if (l.source === curve.id) updateLink(l.id, { slewUp: 0.05, slewDown: 0.05 })(p)
      })
      c.macro('Brighter', 0.4, [f, 'cutoff', 400, 5000])
      c.macro('Echo', 0.2, [echo, 'wet', 0, 0.7])
    },
  ),
  chain(
    'Four weathers',
    'Calm, mist, swell and storm on a plane, with two slow LFOs walking between them',
    {
      tags: ['space', 'movement', 'colour'],
      for: ['pad', 'guitar', 'synth'],
      job: 'morph snapshots keeping',
      point: {
        figure: { of: 'unlike' },
        least: 1,
        at: { 'Left to right': 1 },
        against: { 'Left to right': 0 },
      },
    },
    (c) => {
      const tone = c.add('filter', { cutoff: 2400, resonance: 0.9 })
      const drive = c.add('drive', { drive: 4, output: -4, quality: 2 })
      const echo = c.add('delay', { sync: 1, length: 0.75, feedback: 0.3, wet: 0.15 })
      const room = c.add('reverb', { wet: 0.15, decay: 2 })
      const state = (cutoff: number, dirt: number, back: number, wet: number, decay: number) =>
        [
          [tone, 'cutoff', cutoff],
          [drive, 'drive', dirt],
          [echo, 'feedback', back],
          [room, 'wet', wet],
          [room, 'decay', decay],
        ] as const
      const plane = c.morph(
        'Weather',
        [
          { at: [0.1, 0.1], set: state(700, 0, 0.1, 0.1, 1.2) },
          { at: [0.1, 0.9], set: state(1200, 2, 0.5, 0.6, 6) },
          { at: [0.9, 0.1], set: state(4200, 8, 0.3, 0.12, 1.6) },
          { at: [0.9, 0.9], set: state(7000, 18, 0.65, 0.4, 4) },
        ],
        { x: 0.4, y: 0.4 },
      )
      c.lfo('Wind', { rate: 0.11 }, [plane, 'x', 0.2, 0.6])
      c.lfo('Tide', { rate: 0.07, phase: 0.3 }, [plane, 'y', 0.2, 0.6])
      c.macro('Left to right', 0.4, [plane, 'x', 0, 1])
      c.macro('Near to far', 0.4, [plane, 'y', 0, 1])
    },
  ),
  chain(
    'Spring under the deck',
    'A spring room with a splash of drive',
    {
      tags: ['space', 'dirt'],
      for: ['guitar', 'drums', 'voice'],
      point: { figure: { of: 'fill' }, least: 1 },
    },
    (c) => {
      const drive = c.add('drive', { drive: 6, output: -5, quality: 2 })
      const spring = c.add('convolver', { wet: 0.45 }, 'Spring under the deck')
      c.macro('More spring', 0.45, [spring, 'wet', 0, 1])
      c.macro('Splash', 0.2, [drive, 'drive', 0, 30])
    },
  ),
]
