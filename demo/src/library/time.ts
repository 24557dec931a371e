import { updateLink } from '@oleaje/core/project/motion-edits'
import type { Effect } from '@oleaje/core/project/schema'
import { type LibraryChain, chain } from './chain-maker'

/** Open where a letter stands: `x` as it is, `h` at half speed, `r` backwards. */
const row = (effect: Effect, text: string): Effect => ({
  ...effect,
  lanes: {
    steps: [...text].map((c) => ({ on: c === '.' ? 0 : 1, speed: c === 'h' ? 0.5 : c === 'r' ? -1 : 1 })),
  },
})

/** Chains of delays, repeats, pitch and speed. */
export const time: readonly LibraryChain[] = [
  chain(
    'A chorus from parts',
    'Two modulated delay lines of different rates, left and right',
    {
      tags: ['time', 'movement', 'space'],
      for: ['synth', 'guitar', 'pad'],
      point: { figure: { of: 'width' }, least: 6 },
    },
    (c) => {
      const line = (): Effect =>
        c.fx('delay', { time: 0.012, feedback: 0, lowCut: 20, highCut: 20_000, wet: 0.5 })
      const [left, right] = [line(), line()]
      c.split('left-right', { left: [left], right: [right] })
      const a = c.lfo('Swell', { rate: 0.7 }, [left, 'time', 0.009, 0.015])
      const b = c.lfo('Swell 2', { rate: 0.53 }, [right, 'time', 0.015, 0.009])
      c.edit((p) => {
        for (const l of p.links)
          if (l.source === a.id || l.source === b.id) updateLink(l.id, { law: 'unit' })(p)
      })
      c.macro('Faster', 0.3, [a, 'rate', 0.1, 4], [b, 'rate', 0.08, 3.1])
      c.macro('Wetter', 0.5, [left, 'wet', 0, 1], [right, 'wet', 0, 1])
    },
  ),
  chain(
    'Ensemble',
    'Eight chorus voices in pairs',
    {
      tags: ['time', 'movement'],
      for: ['synth', 'pad', 'guitar'],
      point: { figure: { of: 'width' }, least: 1 },
    },
    (c) => {
      const chorus = c.add('chorus', { voices: 8 }, 'Seasick ensemble')
      c.macro('Seasick', 0.4, [chorus, 'cents', 0.02, 0.6])
      c.macro('Faster', 0.4, [chorus, 'rate', 0.1, 4])
      c.macro('Wider', 0.8, [chorus, 'stereo', 0, 1])
    },
  ),
  chain(
    'A worn tape',
    'A few milliseconds of delay bend the pitch; a drift on the speed of the wave; rare slips',
    {
      tags: ['time', 'movement'],
      for: ['guitar', 'synth', 'mix'],
      on: 'sine',
      point: { figure: { of: 'bend' }, least: 3 },
    },
    (c) => {
      const tape = c.add('delay', { time: 0.009, feedback: 0, wet: 1, lowCut: 20, highCut: 20_000 })
      const tone = c.add('filter', { cutoff: 4200, resonance: 0.8 })
      const echo = c.add('delay', { sync: 1, length: 0.75, feedback: 0.2, highCut: 1800, wet: 0.14 })
      const room = c.add('reverb', { decay: 1.6, wet: 0.12 })
      c.add('compressor', { threshold: -20, ratio: 3, makeup: 2 })
      const wow = c.lfo('Wow', { rate: 0.55 }, [tape, 'time', 0.0075, 0.0105])
      const uneven = c.mod('drift', 'Uneven', { kind: 0, speed: 0.35, roam: 0.5 }, [wow, 'rate', 0.22, 1.5])
      c.mod('drift', 'Slips', { kind: 2, speed: 0.4, density: 0.3, back: 0.4 }, [
        tape,
        'time',
        0.0082,
        0.0099,
      ])
      c.macro('More worn', 0.4, [uneven, 'speed', 0.05, 3], [tone, 'cutoff', 12_000, 1400])
      c.macro('Further away', 0.25, [room, 'wet', 0, 0.6], [echo, 'wet', 0, 0.5])
    },
  ),
  chain(
    'Cassette left in the sun',
    'Deep wow, flutter and a dull top',
    {
      tags: ['time', 'dirt', 'movement'],
      for: ['synth', 'pad', 'mix'],
      on: 'sine',
      point: { figure: { of: 'bend' }, least: 5 },
    },
    (c) => {
      const wow = c.add('wow', {}, 'Cassette left in the sun')
      const dull = c.add('filter', { cutoff: 3600, resonance: 0.6 })
      const hiss = c.add('noise-layer', { level: -30 }, 'Breath')
      c.macro('Hotter', 0.4, [wow, 'depth', 0, 0.7], [dull, 'cutoff', 12_000, 900])
      c.macro('Flutter', 0.2, [wow, 'flutter', 0, 0.4])
      c.macro('Hiss', 0.2, [hiss, 'level', -60, -12])
    },
  ),
  chain(
    'Worn record',
    'Pitch that wanders, with jumps that come back',
    {
      tags: ['time', 'movement'],
      for: ['guitar', 'synth', 'voice'],
      on: 'sine',
      point: { figure: { of: 'bend' }, least: 3 },
    },
    (c) => {
      const wow = c.add('wow', {}, 'Worn record')
      const dull = c.add('filter', { cutoff: 5200 })
      c.macro('Wobble', 0.3, [wow, 'depth', 0, 0.8])
      c.macro('Jumps', 0.2, [wow, 'jumps', 0, 90])
      c.macro('Duller', 0.4, [dull, 'cutoff', 16_000, 1200])
    },
  ),
  chain(
    'A cloud of taps',
    'Many taps, each with its own filter, moved by one fanned LFO',
    {
      tags: ['time', 'space', 'movement'],
      for: ['drums', 'guitar', 'voice'],
      on: 'snare',
      point: { figure: { of: 'width' }, least: 3 },
    },
    (c) => {
      const taps = c.add('taps', { wet: 0.55 }, 'Cloud of taps')
      const wander = c.lfo('Wander', { rate: 0.31 }, [taps, 'taps[*].cutoff', 400, 5200])
      const drops = c.lfo('Drops', { sync: 1, length: 1, shape: 5 }, [taps, 'taps[*].pan', -1, 1])
      c.edit((p) => {
        for (const l of p.links) {
          if (l.source === wander.id) updateLink(l.id, { fan: { phase: 1, rate: 2, random: 0 } })(p)
          if (l.source === drops.id) updateLink(l.id, { fan: { phase: 7, rate: 0, random: 0.4 } })(p)
        }
      })
      c.macro('More cloud', 0.55, [taps, 'wet', 0, 1])
      c.macro('Longer', 0.2, [taps, 'feedback', 0, 0.75])
      c.macro('Wilder', 0.3, [wander, 'rate', 0.05, 4])
    },
  ),
  chain(
    'Bouncing to rest',
    'Taps that close up like a ball, darker as they fall',
    {
      tags: ['time', 'rhythm'],
      for: ['drums', 'guitar', 'synth'],
      on: 'snare',
      point: { figure: { of: 'crest' }, least: -1 },
    },
    (c) => {
      const taps = c.add('taps', { wet: 0.5 }, 'Bouncing to rest')
      const f = c.add('filter', { cutoff: 9000 })
      c.macro('More bounce', 0.5, [taps, 'wet', 0, 1])
      c.macro('Bend', 0.75, [taps, 'bend', -1, 1])
      c.macro('Darker', 0.2, [f, 'cutoff', 16_000, 1200])
    },
  ),
  chain(
    'Gated repeater',
    'A row of gates repeats slices, some at half speed',
    {
      job: 'glitches glitch stutter',
      tags: ['time', 'rhythm'],
      for: ['drums', 'synth', 'mix'],
      point: { figure: { of: 'repeat', seconds: 0.3125 }, least: 2 },
    },
    (c) => {
      const stutter = row(c.fx('stutter', { stepLength: 0.5, sliceLength: 0.5, take: 1 }), '...x..hx.x..hhx.')
      c.put(stutter)
      const f = c.add('filter', { cutoff: 12_000 })
      c.macro('Shorter', 0.1, [stutter, 'sliceLength', 0.5, 0.0625])
      c.macro('Each pass lower', 0, [stutter, 'point', 0, 1], [stutter, 'speed', 1, 0.5])
      c.macro('Darker', 0.1, [f, 'cutoff', 18_000, 700])
    },
  ),
  chain(
    'Half-speed stutter',
    'Now and then a slice falls an octave',
    {
      job: 'glitches glitch',
      tags: ['time', 'rhythm'],
      for: ['drums', 'mix'],
      point: { figure: { of: 'sameness' }, least: -10 },
    },
    (c) => {
      const stutter = row(c.fx('stutter', { stepLength: 0.5, sliceLength: 0.5, take: 1 }), '....h...x...h.h.')
      c.put(stutter)
      c.macro('Hold', 0, [stutter, 'hold', 0, 1])
      c.macro('Fade', 0.1, [stutter, 'fade', 0.0005, 0.08])
    },
  ),
  chain(
    'Reverse stutter',
    'Slices run backwards into the next beat',
    {
      job: 'glitches glitch',
      tags: ['time', 'rhythm'],
      for: ['guitar', 'drums', 'voice'],
      point: { figure: { of: 'sameness' }, least: -10 },
    },
    (c) => {
      const stutter = row(c.fx('stutter', { stepLength: 0.5, sliceLength: 0.5, take: 1 }), '...r...r..r.rr.x')
      c.put(stutter)
      const room = c.add('reverb', { wet: 0.12, decay: 2 })
      c.macro('Hold', 0, [stutter, 'hold', 0, 1])
      c.macro('Room', 0.2, [room, 'wet', 0, 0.6])
    },
  ),
  chain(
    'Scratch by hand',
    'A macro moves the record; on release it catches up',
    {
      job: 'glitches glitch',
      tags: ['time', 'rhythm'],
      for: ['voice', 'drums', 'mix'],
      point: { figure: { of: 'sameness' }, least: -30 },
    },
    (c) => {
      const tape = c.add('varispeed', { span: 0.3, after: 1 }, 'Scratch, for a link')
      c.mod('steps', 'Wrist', { length: 0.5 }, [tape, 'scratch', 0, 0.8])
      c.macro('Hand', 0, [tape, 'scratch', 0, 1])
      c.macro('Travel', 0.2, [tape, 'span', 0.05, 1.5])
    },
  ),
  chain(
    'Tape stop on the bar',
    'The last beat of each bar slows to a stop',
    {
      tags: ['time', 'rhythm'],
      for: ['mix', 'drums', 'synth'],
      point: { figure: { of: 'sameness' }, least: -10 },
    },
    (c) => {
      const tape = c.add('varispeed', { stopTime: 0.55, startTime: 0.12, curve: 0.25 })
      const brake = c.mod('steps', 'Brake', { length: 1, follows: 1 }, [tape, 'stop', 0, 1])
      c.edit((p) => {
        const m = p.tracks.flatMap((t) => t.modulators).find((x) => x.id === brake.id)
        if (m) m.lanes = { steps: [0, 0, 0, 1].map((level) => ({ level, glide: 0, chance: 1 })) }
      })
      c.macro('Stop', 0, [tape, 'stop', 0, 1])
      c.macro('Slower stop', 0.4, [tape, 'stopTime', 0.1, 3])
    },
  ),
  chain(
    'Half speed below',
    'The sound at half speed under itself, rejoined each bar',
    {
      tags: ['time', 'colour'],
      for: ['guitar', 'pad', 'drums'],
      point: { figure: { of: 'band', from: 20, to: 200 }, least: 1 },
    },
    (c) => {
      const slow = c.fx('varispeed', { speed: 0.5 }, 'Half speed, far behind')
      const split = c.split('copies', { 'as it was': [], 'at half speed': [slow] }, [-4, -4])
      c.macro('Below', 0.8, [split.branches[1] ?? '', 'level', -36, 0])
      c.macro('Speed', 0.5, [slow, 'speed', 0.25, 0.75])
    },
  ),
  chain(
    'Dotted echo in the dark',
    'Dotted eighths that get darker and wander from side to side',
    {
      tags: ['time', 'space'],
      for: ['guitar', 'synth', 'voice'],
      point: { figure: { of: 'fill' }, least: 0.8 },
    },
    (c) => {
      const echo = c.add('delay', {
        sync: 1,
        length: 0.75,
        feedback: 0.48,
        pingPong: 1,
        highCut: 3800,
        wet: 0.34,
      })
      c.mod('drift', 'Unsteady', { speed: 0.4, roam: 0.3 }, [echo, 'highCut', 2400, 5200])
      c.macro('More echo', 0.34, [echo, 'wet', 0, 1])
      c.macro('Longer', 0.5, [echo, 'feedback', 0, 0.95])
      c.macro('Darker', 0.5, [echo, 'highCut', 12_000, 900])
    },
  ),
  chain(
    'Throw on demand',
    'A delay that hears only what one control feeds it',
    {
      tags: ['time'],
      for: ['voice', 'guitar', 'drums'],
      point: { figure: { of: 'fill' }, least: 1.5, at: { Throw: 1 }, against: { Throw: 0 } },
    },
    (c) => {
      const echo = c.add('delay', { wet: 0.5 }, 'Throw, feed by hand')
      c.macro('Throw', 0.3, [echo, 'feed', 0, 1])
      c.macro('Longer', 0.6, [echo, 'feedback', 0.2, 0.98])
    },
  ),
  chain(
    'Ducked delay',
    'Echoes that step back while there is sound',
    { tags: ['time', 'rhythm'], for: ['voice', 'guitar'], point: { figure: { of: 'fill' }, least: 0.3 } },
    (c) => {
      const echo = c.add('delay', {}, 'Ducked by the voice')
      c.macro('Ducking', 0.5, [echo, 'duck', 0, 36])
      c.macro('More echo', 0.5, [echo, 'wet', 0, 1])
    },
  ),
  chain(
    'Pitch spiral',
    'Each repeat a little higher until it is gone',
    {
      tags: ['time', 'colour'],
      for: ['synth', 'voice', 'guitar'],
      point: { figure: { of: 'unlike' }, least: 0.3 },
    },
    (c) => {
      const echo = c.add('delay', { wet: 0.4 }, 'Pitch spiral')
      c.macro('Interval', 0.65, [echo, 'pitch', -12, 12])
      c.macro('Longer', 0.6, [echo, 'feedback', 0.1, 0.95])
    },
  ),
  chain(
    'Slap and width',
    'A short slap, wider than the source',
    {
      tags: ['time', 'space'],
      for: ['voice', 'guitar', 'drums'],
      point: { figure: { of: 'width' }, least: 3 },
    },
    (c) => {
      const slap = c.add('delay', { sides: 1, timeRight: 0.113, wet: 0.3 }, 'Slap')
      const wide = c.add('stereo', { width: 1.3, monoBelow: 120 })
      c.macro('More slap', 0.3, [slap, 'wet', 0, 0.8])
      c.macro('Wider', 0.65, [wide, 'width', 0.2, 2])
    },
  ),
  chain(
    'Cascading filter',
    'A filter inside a loop: each pass falls further',
    { tags: ['time', 'colour'], for: ['drums', 'synth'], point: { figure: { of: 'fill' }, least: 2 } },
    (c) => {
      const f = c.fx('filter', { cutoff: 1400, resonance: 2.2 })
      const loop = c.loop({ sync: 1, length: 0.75, feedback: 0.66, wet: 0.5 }, [f])
      c.lfo('Fall', { sync: 1, length: 4, shape: 2 }, [f, 'cutoff', 3200, 420])
      c.macro('Longer', 0.6, [loop, 'feedback', 0.1, 0.95])
      c.macro('More', 0.5, [loop, 'wet', 0, 1])
    },
  ),
  chain(
    'Falling stairs',
    'A frequency shifter in feedback: a stair that never ends',
    {
      tags: ['time', 'colour', 'movement'],
      for: ['pad', 'drums', 'synth'],
      point: { figure: { of: 'unlike' }, least: 1 },
    },
    (c) => {
      const shift = c.add('frequency-shift', { wet: 0.5 }, 'Falling stairs')
      const echo = c.add('delay', { sync: 1, length: 0.75, wet: 0.2, feedback: 0.4 })
      c.macro('Steeper', 0.5, [shift, 'feedback', 0, 0.92])
      c.macro('Echo', 0.25, [echo, 'wet', 0, 0.7])
      c.macro('More', 0.5, [shift, 'wet', 0, 1])
    },
  ),
  chain(
    'Barber pole',
    'Shifted up on one side, down on the other, round and round',
    {
      tags: ['movement', 'colour', 'space'],
      for: ['pad', 'synth', 'guitar'],
      point: { figure: { of: 'sameness' }, least: -10 },
    },
    (c) => {
      const shift = c.add('frequency-shift', {}, 'Barber pole')
      c.lfo('Turn', { rate: 0.11 }, [shift, 'feedback', 0, 0.3])
      c.macro('Direction', 0.62, [shift, 'shift', -6, 6])
      c.macro('More', 0.6, [shift, 'wet', 0, 1])
    },
  ),
  chain(
    'Fifth above, octave below',
    'Two pitched copies beside the sound, spread to the sides',
    {
      tags: ['time', 'colour'],
      for: ['guitar', 'voice', 'synth'],
      point: { figure: { of: 'width' }, least: 2 },
    },
    (c) => {
      const pitch = c.add('pitch', { second: 1, pan: -0.6, pan2: 0.6, pitch: 7, pitch2: -12, wet: 0.45 })
      const f = c.add('filter', { cutoff: 7000 })
      c.macro('More', 0.45, [pitch, 'wet', 0, 0.9])
      c.macro('Apart', 0.6, [pitch, 'pan', 0, -1], [pitch, 'pan2', 0, 1])
      c.macro('Darker', 0.2, [f, 'cutoff', 16_000, 1500])
    },
  ),
  chain(
    'Captain’s voice',
    'Formants moved while the pitch stays',
    { tags: ['voice', 'colour'], for: ['voice', 'guitar'], point: { figure: { of: 'unlike' }, least: 1 } },
    (c) => {
      const pitch = c.add('pitch', {}, 'Captain, fine')
      c.mod('drift', 'Mood', { speed: 0.5 }, [pitch, 'formant', -5, -1])
      c.macro('Smaller', 0.3, [pitch, 'formant', -10, 10])
      c.macro('More', 1, [pitch, 'wet', 0, 1])
    },
  ),
]
