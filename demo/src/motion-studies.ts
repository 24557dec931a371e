import { pow } from '@oleaje/core/dsp/math'
import { addLink, addModulator, setInput, updateLink } from '@oleaje/core/project/motion-edits'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import { setData } from '@oleaje/core/project/value-edits'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import type { Project, Track } from '@oleaje/core/project/schema'
import { type DemoSound, assemble, linkValue, loopTrack } from './assemble'

/** Centres of the eight bands that move together. */
const bandHz = (i: number): number => 180 * pow(1.62, i)

/**
 * One short chain for each way of moving, each on a track of its own; all but the first are muted. Played one
 * at a time, they are what the guide points at.
 */
export function motionStudies(sounds: readonly DemoSound[]): Project {
  const band = (i: number): ReturnType<typeof newBranch> => {
    const b = newBranch(`${Math.round(bandHz(i))} Hz`, -8, `together-branch-${i}`)
    b.nodes = [newEffect('filter', { cutoff: bandHz(i), resonance: 5, shape: 1 }, `together-${i}`)]
    return b
  }
  const noise = (): Track =>
    newTrack('Played filter', newSource('tone', { wave: 5, level: -16 }, null, 'played-source'), 'played')
  const line = (): Track => ({
    ...newTrack(
      'Guitar that answers',
      { ...newSource('input', { fine: 6 }, null, 'answer-source'), device: 'simulated' },
      'answer',
    ),
  })
  const tracks: Track[] = [
    loopTrack(sounds, 'drifting', 'Drifting pad', 'fog-pad', 2, [
      newEffect('filter', { cutoff: 900, resonance: 2.5, shape: 0.85, wet: 0.75 }, 'drift-low'),
      newEffect('filter', { cutoff: 2600, resonance: 3, shape: 2.9, wet: 0.9 }, 'drift-high'),
      newEffect('reverb', { decay: 2.8, wet: 0.22 }, 'drift-room'),
    ]),
    loopTrack(sounds, 'study-kit', 'Deck kit', 'deck-kit', -6, []),
    loopTrack(sounds, 'ducking', 'Ducking bass', 'hull-bass', -8, [
      newEffect('filter', { cutoff: 520, resonance: 2.2, slope: 1 }, 'duck-filter'),
      newEffect('gain', { level: 0 }, 'duck-level'),
    ]),
    loopTrack(sounds, 'warped', 'Warped record', 'rope-guitar', -2, [
      newEffect('delay', { time: 0.009, feedback: 0, wet: 1, lowCut: 20, highCut: 20_000 }, 'warp-delay'),
      newEffect('filter', { cutoff: 4200, resonance: 0.8 }, 'warp-filter'),
      newEffect('delay', { sync: 1, length: 0.75, feedback: 0.2, highCut: 1800, wet: 0.16 }, 'warp-echo'),
      newEffect('reverb', { decay: 1.6, wet: 0.14 }, 'warp-room'),
      newEffect('compressor', { threshold: -20, ratio: 3, makeup: 2 }, 'warp-comp'),
    ]),
    loopTrack(sounds, 'riser', 'One-control riser', 'galley-keys', -3, [
      newEffect('drive', { drive: 6, output: -6, quality: 2 }, 'rise-drive'),
      newEffect('filter', { cutoff: 60, resonance: 1, shape: 2 }, 'rise-cut'),
      newEffect('delay', { time: 0.12, feedback: 0.2, wet: 0.1, path: 1 }, 'rise-delay'),
      newEffect('reverb', { decay: 2, wet: 0.1 }, 'rise-room'),
      newEffect('gain', { level: 0 }, 'rise-level'),
    ]),
    loopTrack(sounds, 'together', 'All together', 'fog-pad', 2, [
      newSplit(
        Array.from({ length: 8 }, (_, i) => band(i)),
        'together-split',
      ),
    ]),
    {
      ...noise(),
      a: {
        nodes: [
          newEffect('filter', { cutoff: 440, resonance: 28, shape: 1 }, 'played-filter'),
          newEffect('delay', { sync: 1, length: 0.75, feedback: 0.3, wet: 0.25 }, 'played-echo'),
        ],
      },
    },
    {
      ...line(),
      a: {
        nodes: [
          newEffect('drive', { drive: 16, output: -9, quality: 2 }, 'answer-drive'),
          newEffect('filter', { cutoff: 480, resonance: 4.5, slope: 1 }, 'answer-filter'),
          newEffect('reverb', { decay: 1.2, wet: 0.15 }, 'answer-room'),
        ],
      },
    },
    loopTrack(sounds, 'odd', 'Odd lengths', 'galley-keys', -2, [
      newEffect('filter', { cutoff: 1400, resonance: 3.5, shape: 0.6, output: 3 }, 'odd-filter'),
      newEffect('delay', { sync: 1, length: 0.5, feedback: 0.25, wet: 0.2 }, 'odd-echo'),
    ]),
  ]
  for (const t of tracks.slice(1)) t.params.mute = 1
  // the kit is what the bass follows: it is heard together with it
  const notes = [
    [0, 62, 1],
    [1, 65, 0.7],
    [1.5, 69, 0.9],
    [2.5, 67, 0.4],
    [3, 65, 0.8],
    [4, 58, 1],
    [5.5, 62, 0.6],
    [6, 65, 0.9],
    [7, 74, 0.5],
  ] as const
  const riding = (owner: string, param: string, low: number, high: number) =>
    linkValue('rise', owner, param, low, high, 'fixed')
  return assemble({
    id: 'motion-studies',
    name: 'Night Ferry: ways of moving',
    sounds,
    tracks,
    mix: [],
    edits: [
      addModulator('drifting', 'lfo', { id: 'slow', name: 'Ebb', params: { rate: 0.071 } }),
      linkValue('slow', 'drift-low', 'cutoff', 420, 2100),
      linkValue('slow', 'drift-low', 'resonance', 1.6, 4),
      addModulator('drifting', 'lfo', { id: 'slower', name: 'Ebb 2', params: { rate: 0.113, phase: 0.3 } }),
      linkValue('slower', 'drift-high', 'cutoff', 1300, 5200),
      linkValue('slower', 'drift-high', 'resonance', 1.6, 5),

      addModulator('ducking', 'follower', {
        id: 'duck',
        name: 'Kit',
        params: { attack: 0.006, release: 0.16, sensitivity: 4 },
        listens: { track: 'study-kit', point: 'before' },
      }),
      linkValue('duck', 'duck-filter', 'cutoff', 520, 1500),
      linkValue('duck', 'duck-level', 'level', 0, -12),

      addModulator('warped', 'lfo', { id: 'wow', name: 'Wow', params: { rate: 0.55 } }),
      linkValue('wow', 'warp-delay', 'time', 0.0075, 0.0105),
      addModulator('warped', 'drift', {
        id: 'uneven',
        name: 'Uneven',
        params: { kind: 0, speed: 0.35, roam: 0.5 },
      }),
      linkValue('uneven', 'wow', 'rate', 0.22, 1.5),
      addModulator('warped', 'drift', {
        id: 'slips',
        name: 'Slips',
        params: { kind: 2, speed: 0.4, density: 0.3, back: 0.4 },
      }),
      linkValue('slips', 'warp-delay', 'time', 0.0082, 0.0099),

      addModulator('riser', 'macro', { id: 'rise', name: 'Rise', params: { value: 0.15 } }),
      riding('rise-cut', 'cutoff', 30, 1800),
      riding('rise-cut', 'resonance', 0.8, 3.5),
      riding('rise-drive', 'drive', 3, 24),
      riding('rise-delay', 'wet', 0.05, 0.5),
      riding('rise-delay', 'feedback', 0.15, 0.72),
      riding('rise-delay', 'time', 0.12, 0.03),
      riding('rise-room', 'wet', 0.08, 0.6),
      riding('rise-level', 'level', 0, -4),
      addModulator('riser', 'macro', {
        id: 'dirt-part',
        name: 'Dirt part',
        params: { value: 1, mode: 1, glide: 0 },
      }),
      linkValue('dirt-part', 'rise-drive', 'on', 0, 1),
      addModulator('riser', 'macro', {
        id: 'pitch-part',
        name: 'Pitch part',
        params: { value: 1, mode: 1, glide: 0 },
      }),
      addLink('pitch-part', { owner: 'to-rise-delay-time', param: 'on' }, 0, 1),
      addModulator('riser', 'controller', { id: 'wheel', name: 'Wheel', params: { value: 0 } }),
      linkValue('wheel', 'rise', 'value', 0.15, 1),

      addModulator('together', 'lfo', {
        id: 'swell',
        name: 'Swell',
        params: { sync: 1, length: 16, shape: 1 },
      }),
      ...Array.from({ length: 8 }, (_, i) =>
        linkValue('swell', `together-${i}`, 'cutoff', bandHz(i) * 0.7, bandHz(i) * 1.5),
      ),

      addModulator('played', 'notes', { id: 'tune', name: 'Tune', params: { bendRange: 2, glide: 0.05 } }),
      setNoteLine('played', {
        length: 8,
        notes: notes.map(([start, pitch, velocity], i) => ({
          start,
          length: (notes[i + 1]?.[0] ?? 8) - start - 0.1,
          pitch,
          velocity,
        })),
        bend: [
          { x: 0, y: 0.5, bend: 0 },
          { x: 6.5, y: 0.5, bend: 0 },
          { x: 7.2, y: 1, bend: 0 },
          { x: 7.9, y: 0.5, bend: 0 },
        ],
        pressure: [],
      }),
      addLink('tune', { owner: 'played-filter', param: 'cutoff' }, 0, 1, { output: 'pitch' }),
      addLink('tune', { owner: 'played-filter', param: 'wet' }, 0, 1, { output: 'velocity', mode: 'fixed' }),
      addModulator('played', 'envelope', {
        id: 'pluck',
        name: 'Pluck',
        params: { trigger: 0, attack: 0.005, decay: 0.5, sustain: 0.25, release: 0.5 },
      }),
      linkValue('pluck', 'played', 'level', -24, 0, 'fixed'),

      addModulator('answer', 'follower', {
        id: 'touch',
        name: 'Touch',
        params: { attack: 0.008, release: 0.25, sensitivity: 14 },
        listens: { track: 'answer', point: 'before' },
      }),
      linkValue('touch', 'answer-filter', 'cutoff', 480, 3200),
      addModulator('answer', 'pitch-tracker', {
        id: 'ear',
        name: 'Ear',
        listens: { track: 'answer', point: 'before' },
      }),
      addModulator('answer', 'combine', { id: 'sure', name: 'Sure touch', params: { how: 1 } }),
      setInput('sure', 0, { source: 'touch', output: 'level' }),
      setInput('sure', 1, { source: 'ear', output: 'confidence' }),
      linkValue('sure', 'answer-filter', 'resonance', 3, 7),

      addModulator('odd', 'curve', { id: 'three-and-a-half', name: '3½ bars', params: { length: 14 } }),
      setData('three-and-a-half', 'points', [
        { x: 0, y: 0.1, bend: 0.3 },
        { x: 6, y: 0.95, bend: -0.4 },
        { x: 8, y: 0.5, bend: 0 },
        { x: 11, y: 0.75, bend: 0.2 },
        { x: 14, y: 0.1, bend: 0 },
      ]),
      linkValue('three-and-a-half', 'odd-filter', 'cutoff', 500, 4200),
      addModulator('odd', 'steps', { id: 'seven', name: 'Seven', params: { length: 0.25 } }),
      (p) => {
        const m = p.tracks.flatMap((t) => t.modulators).find((x) => x.id === 'seven')
        if (m)
          m.lanes = {
            steps: [0.9, 0.2, 0.5, 0.1, 0.75, 0.3, 0].map((level, i) => ({
              level,
              glide: i === 4 ? 0.6 : 0,
              chance: i === 6 ? 0.6 : 1,
            })),
          }
      },
      linkValue('seven', 'odd-filter', 'resonance', 1.5, 6),
      updateLink('to-odd-filter-resonance', { slewUp: 0.01, slewDown: 0.03 }),
    ],
  })
}
