import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import { addBus, addSend } from '@oleaje/core/project/routing'
import { type NoteLine, type Project, type Track, arpeggioSchema } from '@oleaje/core/project/schema'
import { type DemoSound, assemble, loopTrack } from './assemble'
import { deckKit } from './deck-kit'

const lineOf = (length: number, notes: readonly (readonly [number, number, number, number])[]): NoteLine => ({
  length,
  bend: [],
  pressure: [],
  notes: notes.map(([start, long, pitch, velocity]) => ({ start, length: long, pitch, velocity })),
})

/** One short chain for each way of playing, each on a track of its own; all but the first are muted. */
export function playingStudies(sounds: readonly DemoSound[]): Project {
  const snare = { ...newBranch('snare', 0, 'snare-branch'), pads: [1] }
  snare.nodes = [
    newEffect(
      'compressor',
      { threshold: -26, ratio: 4, attack: 0.008, release: 0.12, makeup: 4 },
      'snare-comp',
    ),
    newEffect('drive', { drive: 12, output: -9, quality: 2 }, 'snare-drive'),
    newEffect('comb', { frequency: 146.83, feedback: 0.72, wet: 0.3 }, 'snare-comb'),
  ]
  const kit: Track = {
    ...deckKit(sounds, 'struck', -4),
    name: 'Snare by itself',
    a: {
      nodes: [
        { ...newSplit([snare, newBranch('all others', 0, 'others-branch')], 'struck-split'), mode: 'pads' },
      ],
    },
  }
  // bursts of noise, each eighth, that ring at the pitch of the melody
  const comb: Track = {
    ...newTrack(
      'Melody on a comb',
      newSource('tone', { wave: 6, every: 0.5, level: -16 }, null, 'comb-source'),
      'combed',
    ),
    params: { level: 5, pan: 0, mute: 1 },
    line: lineOf(16, [
      [0, 1.5, 62, 0.9],
      [1.5, 0.5, 65, 0.6],
      [2, 2, 69, 0.8],
      [4, 1.5, 65, 0.8],
      [5.5, 0.5, 70, 0.6],
      [6, 2, 74, 0.9],
      [8, 1.5, 72, 0.8],
      [9.5, 0.5, 69, 0.6],
      [10, 2, 65, 0.8],
      [12, 1, 67, 0.7],
      [13, 1, 64, 0.7],
      [14, 2, 60, 0.9],
    ]),
    a: {
      nodes: [
        newEffect('comb', { frequency: 293.66, feedback: 0.985, damping: 6000 }, 'melody-comb'),
        newEffect('delay', { sync: 1, length: 0.75, feedback: 0.3, wet: 0.22 }, 'comb-echo'),
      ],
    },
  }
  // the pad goes on as it is; a narrow band of it plays the arpeggio, and that band alone goes on to a delay
  const band = newBranch('band', 4, 'band-branch')
  band.nodes = [
    newEffect('filter', { cutoff: 440, resonance: 24, shape: 1 }, 'arp-band'),
    newEffect('gain', { level: 0 }, 'arp-depth'),
    newEffect('delay', { sync: 1, length: 0.75, feedback: 0.45, wet: 0.5, path: 1 }, 'arp-echo'),
  ]
  const pad: Track = {
    ...loopTrack(sounds, 'arpeggio', 'Arpeggio on a band', 'fog-pad', 5, [
      newSplit([newBranch('straight', -9, 'straight-branch'), band], 'arp-split'),
    ]),
    line: lineOf(
      16,
      [
        [0, 4],
        [4, 4],
        [8, 4],
        [12, 4],
      ].flatMap(([start, long], bar) =>
        (
          [
            [62, 65, 69],
            [58, 62, 65],
            [60, 65, 69],
            [60, 64, 67],
          ][bar] ?? []
        ).map((pitch, i) => [start ?? 0, long ?? 4, pitch, 0.6 + 0.2 * i] as const),
      ),
    ),
    arpeggio: arpeggioSchema.parse({
      order: 'up',
      octaves: 2,
      step: 1.5,
      gate: 0.9,
      steps: [
        { transpose: 0, velocity: 1 },
        { transpose: 0, velocity: 0.6 },
        { transpose: 0, velocity: 0.8 },
      ],
    }),
  }
  pad.params.mute = 1
  const glide: Track = {
    ...newTrack(
      'Glide of three seconds',
      newSource(
        'played',
        {
          plays: 3,
          voices: 1,
          overlap: 1,
          glide: 3,
          glides: 1,
          copies: 5,
          detune: 0.12,
          attack: 0.4,
          release: 1.2,
          level: -14,
        },
        null,
        'glide-source',
      ),
      'glide',
    ),
    params: { level: 3, pan: 0, mute: 1 },
    line: lineOf(16, [
      [0, 8, 26, 0.8],
      [7.9, 8, 62, 0.9],
    ]),
    a: {
      nodes: [
        newEffect('filter', { cutoff: 900, resonance: 1.6, slope: 1 }, 'glide-filter'),
        newEffect('reverb', { decay: 2.8, wet: 0.25 }, 'glide-room'),
      ],
    },
  }
  return assemble({
    id: 'playing-studies',
    name: 'Night Ferry: ways of playing',
    sounds,
    tracks: [kit, comb, pad, glide],
    mix: [],
    edits: [
      addModulator('combed', 'notes', { id: 'tune', name: 'Tune' }),
      addLink('tune', { owner: 'melody-comb', param: 'frequency' }, 0, 1, {
        id: 'to-melody-comb-frequency',
        output: 'pitch',
      }),
      addModulator('arpeggio', 'notes', { id: 'steps', name: 'Steps' }),
      addLink('steps', { owner: 'arp-band', param: 'cutoff' }, 0, 1, {
        id: 'to-arp-band-cutoff',
        output: 'pitch',
      }),
      addLink('steps', { owner: 'arp-depth', param: 'level' }, 0.35, 0.72, {
        id: 'to-arp-depth-level',
        output: 'velocity',
        mode: 'fixed',
      }),
      addBus('Fog room', 'fog-room'),
      addSend('snare-branch', 'fog-room', { id: 'snare-to-room', level: -8 }),
      addSend('combed', 'fog-room', { id: 'comb-to-room', level: -14 }),
      (p) => {
        const room = p.tracks.find((t) => t.id === 'fog-room')
        if (room) room.a.nodes = [newEffect('reverb', { decay: 2.2, size: 0.7, wet: 1 }, 'room-reverb')]
      },
    ],
  })
}
