import { addModulator } from '@oleaje/core/project/motion-edits'
import { addSection } from '@oleaje/core/project/song-edits'
import { setData } from '@oleaje/core/project/value-edits'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import type { Project, Track } from '@oleaje/core/project/schema'
import { deckKit } from './deck-kit'
import { type DemoSound, assemble, linkValue as link, loopTrack } from './assemble'

/** The demo project, from its sounds. */
export function nightFerry(sounds: readonly DemoSound[]): Project {
  const track = (id: string, file: string, level: number, nodes: Track['a']['nodes']): Track =>
    loopTrack(sounds, id, sounds.find((s) => s.file === file)?.title ?? file, file, level, nodes)
  const high = newBranch('dirty copy', -9, 'kit-dirty')
  high.nodes = [
    newEffect('drive', { quality: 2, drive: 24, curve: 1, output: -10 }, 'kit-drive'),
    newEffect('filter', { cutoff: 1400, resonance: 1.2, shape: 1 }, 'kit-band'),
  ]
  const lineIn: Track = {
    ...newTrack('Line in', { ...newSource('input', {}, null, 'line-source'), device: 'simulated' }, 'line'),
    params: { level: -6, pan: 0, mute: 0 },
  }
  lineIn.a.nodes = [
    newEffect('drive', { quality: 2, drive: 14, output: -9 }, 'line-drive'),
    newEffect('delay', { sync: 1, length: 0.75, feedback: 0.35, wet: 0.22 }, 'line-delay'),
  ]
  const pump = newEffect(
    'compressor',
    { threshold: -22, ratio: 3, attack: 0.005, release: 0.12, makeup: 2 },
    'bass-comp',
  )
  pump.sidechain = { track: 'kit', point: 'before' }

  const tracks = [
    {
      ...deckKit(sounds, 'kit', -4),
      a: {
        nodes: [
          newSplit([newBranch('straight', 0, 'kit-straight'), high], 'kit-split'),
          newEffect(
            'compressor',
            { threshold: -16, ratio: 3, attack: 0.012, release: 0.09, makeup: 2 },
            'kit-comp',
          ),
        ],
      },
    },
    track('guitar', 'rope-guitar', -1, [
      newEffect('filter', { cutoff: 2400, resonance: 1.4, shape: 0.2 }, 'guitar-filter'),
      newEffect(
        'delay',
        { sync: 1, length: 0.75, feedback: 0.42, path: 1, highCut: 5200, wet: 0.3 },
        'guitar-delay',
      ),
    ]),
    track('pad', 'fog-pad', 3, [
      newEffect(
        'filter',
        { cutoff: 800, resonance: 2.6, slope: 1, drive: 6, spread: 0.12, output: 3 },
        'pad-filter',
      ),
      newEffect('drive', { quality: 2, drive: 10, curve: 0, output: -7, wet: 0.5 }, 'pad-drive'),
      newEffect('delay', { sync: 0, time: 0.018, feedback: 0.1, wet: 0.45, highCut: 12_000 }, 'pad-delay'),
      newEffect('reverb', { decay: 3.6, size: 0.9, wet: 0.32, highs: 0.45 }, 'pad-reverb'),
    ]),
    track('bass', 'hull-bass', -9, [
      newEffect('filter', { cutoff: 420, resonance: 1.8, slope: 1, drive: 8 }, 'bass-filter'),
      pump,
    ]),
    track('keys', 'galley-keys', -1.5, [
      newEffect('filter', { cutoff: 1500, resonance: 3, shape: 0.7, output: 4 }, 'keys-filter'),
      newEffect('delay', { sync: 1, length: 1 / 3, feedback: 0.3, wet: 0.25, path: 1 }, 'keys-delay'),
    ]),
    track('horn', 'foghorn-voice', -5, [
      newEffect('filter', { cutoff: 900, resonance: 1.6, shape: 0.4 }, 'horn-filter'),
      newEffect(
        'delay',
        { sync: 1, length: 1.5, feedback: 0.62, saturation: 6, wet: 0.4, highCut: 2400 },
        'horn-delay',
      ),
    ]),
    lineIn,
  ]
  return assemble({
    id: 'night-ferry',
    name: 'Night Ferry',
    sounds,
    tracks,
    mix: [
      newEffect(
        'compressor',
        { threshold: -14, ratio: 2, knee: 10, attack: 0.03, release: 0.2, makeup: 1.5 },
        'mix-comp',
      ),
    ],
    edits: [
      addModulator('pad', 'lfo', { id: 'tide', name: 'Slow tide', params: { rate: 0.18 } }),
      addModulator('pad', 'drift', {
        id: 'gulls',
        name: 'Gulls',
        params: { kind: 0, speed: 0.9, roam: 0.4 },
      }),
      addModulator('pad', 'follower', {
        id: 'kit-follower',
        name: 'Kit follower',
        params: { attack: 0.004, release: 0.18, sensitivity: 6 },
        listens: { track: 'kit', point: 'after' },
      }),
      addModulator('pad', 'macro', { id: 'haze', name: 'Haze', params: { value: 0.4 } }),
      addModulator('guitar', 'lfo', {
        id: 'rope',
        name: 'Rope swing',
        params: { shape: 1, sync: 1, length: 6 },
      }),
      addModulator('bass', 'follower', {
        id: 'thump',
        name: 'Thump',
        params: { attack: 0.003, release: 0.14, sensitivity: 3 },
        listens: { track: 'kit', point: 'before' },
      }),
      addModulator('keys', 'steps', { id: 'galley-steps', name: 'Galley steps', params: { length: 0.5 } }),
      addModulator('horn', 'curve', { id: 'swell', name: 'Swell', params: { length: 14 } }),
      setData('swell', 'points', [
        { x: 0, y: 0, bend: 0.3 },
        { x: 7, y: 1, bend: -0.3 },
        { x: 14, y: 0, bend: 0 },
      ]),
      addModulator('kit', 'macro', { id: 'grit', name: 'Grit', params: { value: 0.35 } }),
      link('tide', 'pad-filter', 'cutoff', 420, 3400),
      link('kit-follower', 'pad-filter', 'resonance', 2.6, 1.4),
      link('tide', 'pad-filter', 'shape', 0, 0.6),
      link('gulls', 'pad-delay', 'time', 0.012, 0.026),
      link('kit-follower', 'pad', 'level', 3, -4),
      link('haze', 'pad-reverb', 'wet', 0.1, 0.75, 'fixed'),
      link('haze', 'pad-drive', 'wet', 0.15, 0.8, 'fixed'),
      link('rope', 'guitar-filter', 'cutoff', 1300, 5200),
      link('thump', 'bass-filter', 'cutoff', 260, 900),
      link('galley-steps', 'keys-filter', 'cutoff', 600, 3600),
      link('swell', 'horn-filter', 'cutoff', 500, 2200),
      link('grit', 'kit-dirty', 'level', -24, -3, 'fixed'),
      link('grit', 'kit-drive', 'drive', 12, 36, 'fixed'),
      addSection({ id: 'section-harbour', name: 'Harbour', start: 0, end: 8 }),
      addSection({ id: 'section-open-water', name: 'Open water', start: 8, end: 16 }),
    ],
  })
}
