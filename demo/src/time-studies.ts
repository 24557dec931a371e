import { setSidechain } from '@oleaje/core/project/chain-edits'
import { addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newLoopBack, newSplit } from '@oleaje/core/project/new'
import type { ChainNode, Effect, LoopBack, Project, Track } from '@oleaje/core/project/schema'
import { type DemoSound, assemble, linkValue, loopTrack } from './assemble'
import { presetEffect as preset } from './preset-effect'

const loop = (id: string, params: Record<string, number>, nodes: ChainNode[]): LoopBack => {
  const made = newLoopBack(nodes, id)
  return { ...made, params: { ...made.params, ...params } }
}
const gateRow = (effect: Effect, steps: readonly Record<string, number>[]): Effect => ({
  ...effect,
  lanes: { steps: steps.map((s) => ({ ...s })) },
})
/** Open where a letter stands: `x` as it is, `h` at half speed, `r` backwards. */
const row = (text: string): Record<string, number>[] =>
  [...text].map((c) => ({ on: c === '.' ? 0 : 1, speed: c === 'h' ? 0.5 : c === 'r' ? -1 : 1 }))
/** Dry beside a chain. */
const beside = (id: string, name: string, nodes: ChainNode[], level = -6) =>
  newSplit([newBranch('dry', -3, `${id}-dry`), { ...newBranch(name, level, `${id}-wet`), nodes }], id)

/** One short chain for each way of using time, each on a track of its own; all but the first are muted. */
export function timeStudies(sounds: readonly DemoSound[]): Project {
  const tracks: Track[] = [
    loopTrack(sounds, 'shimmer', 'Shimmer', 'fog-pad', -9, [
      loop('shimmer-loop', { sync: 1, length: 2, feedback: 0.55, highCut: 9000, wet: 0.6 }, [
        newEffect('pitch', { quality: 1, pitch: 12 }, 'shimmer-pitch'),
        newEffect('reverb', { decay: 3.5, wet: 0.7, lowCut: 180 }, 'shimmer-reverb'),
      ]),
    ]),
    loopTrack(sounds, 'spiral', 'Pitch spiral', 'galley-keys', -6, [
      preset('delay', 'Pitch spiral', 'spiral-delay'),
    ]),
    loopTrack(sounds, 'cascade', 'Cascading filter', 'deck-kit', -6, [
      loop('cascade-loop', { sync: 1, length: 0.75, feedback: 0.7 }, [
        newEffect('filter', { cutoff: 1400, resonance: 2.2 }, 'cascade-filter'),
      ]),
    ]),
    loopTrack(sounds, 'tape-stop', 'Tape stop', 'deck-kit', -3, [
      newEffect('varispeed', { stopTime: 0.6, startTime: 0.15, curve: 0.25 }, 'stop-tape'),
    ]),
    loopTrack(sounds, 'half', 'Half-speed stutter', 'deck-kit', -3, [
      gateRow(
        newEffect('stutter', { stepLength: 0.5, sliceLength: 0.5, take: 1 }, 'half-stutter'),
        row('....h...x...h.h.'),
      ),
    ]),
    loopTrack(sounds, 'reverse', 'Reverse stutter', 'rope-guitar', -6, [
      gateRow(
        newEffect('stutter', { stepLength: 0.5, sliceLength: 0.5, take: 1 }, 'reverse-stutter'),
        row('...r...r..r.rr.x'),
      ),
    ]),
    loopTrack(sounds, 'slower', 'Slower with each pass', 'deck-snare', -4, [
      gateRow(
        preset('stutter', 'Slower with each pass', 'slower-stutter', { stepLength: 1 }),
        row('.xxx.xxx'),
      ),
    ]),
    loopTrack(sounds, 'scratch', 'Scratch by an envelope', 'foghorn-voice', -6, [
      newEffect('varispeed', { span: 0.28, after: 0 }, 'scratch-tape'),
    ]),
    loopTrack(sounds, 'chorus-parts', 'Chorus from parts', 'galley-keys', -6, [
      newSplit(
        ['left', 'right'].map((n, i) => ({
          ...newBranch(n, -3, `chorus-${n}`),
          nodes: [
            newEffect(
              'delay',
              { time: 0.012, feedback: 0, lowCut: 20, highCut: 20_000 },
              `chorus-delay-${i}`,
            ),
          ],
        })),
        'chorus-split',
      ),
    ]),
    loopTrack(sounds, 'worn', 'Worn record', 'galley-keys', -6, [
      preset('wow', 'Worn record', 'worn-wow'),
      newEffect('filter', { cutoff: 5200 }, 'worn-filter'),
    ]),
    loopTrack(sounds, 'cloud', 'Cloud of taps', 'deck-snare', -8, [
      preset('taps', 'Cloud of taps', 'cloud-taps', { wet: 0.6 }),
    ]),
    loopTrack(sounds, 'blur', 'Pre-drop blur', 'deck-kit', -8, [
      preset('stutter', 'Pre-drop, by Hold', 'blur-stutter'),
      newEffect('delay', { sync: 1, length: 0.25, feedback: 0.7, diffusion: 0.6, wet: 0.3 }, 'blur-delay'),
      newEffect('reverb', { decay: 5, wet: 0.3, freeze: 0 }, 'blur-reverb'),
      newEffect('limiter', {}, 'blur-limit'),
    ]),
    loopTrack(sounds, 'metal-rain', 'Metal rain', 'deck-hat', -2, [
      beside('rain-split', 'rain', [
        preset('flanger', 'Jet over the bay', 'rain-flanger'),
        preset('resonators', 'Small bells', 'rain-resonators'),
        preset('grains', 'Fog over the water', 'rain-grains'),
      ]),
    ]),
    loopTrack(sounds, 'living', 'Living reverb', 'rope-guitar', -6, [
      beside('living-split', 'room', [
        newEffect('gate', { threshold: -30, attack: 0.002, hold: 0.05, release: 0.12 }, 'living-gate'),
        newEffect('reverb', { decay: 3, motion: 0.7, motionRate: 2.4, early: 0.2 }, 'living-reverb'),
      ]),
    ]),
    loopTrack(sounds, 'barber', 'Barber pole', 'fog-pad', -9, [
      preset('frequency-shift', 'Barber pole', 'barber-shift'),
    ]),
    loopTrack(sounds, 'ducked', 'Ducked delay', 'foghorn-voice', -6, [
      preset('delay', 'Ducked by the voice', 'ducked-delay'),
    ]),
  ]
  for (const t of tracks.slice(1)) t.params.mute = 1
  return assemble({
    id: 'time-studies',
    name: 'Night Ferry: ways of time',
    sounds,
    tracks,
    mix: [],
    edits: [
      addModulator('shimmer', 'macro', { id: 'heaven', name: 'Heaven', params: { value: 0.5 } }),
      linkValue('heaven', 'shimmer-loop', 'feedback', 0.2, 0.85, 'fixed'),
      addModulator('cascade', 'lfo', { id: 'fall', name: 'Fall', params: { sync: 1, length: 4, shape: 2 } }),
      linkValue('fall', 'cascade-filter', 'cutoff', 4200, 380, 'fixed'),
      addModulator('tape-stop', 'steps', { id: 'brake', name: 'Brake', params: { length: 1 } }),
      linkValue('brake', 'stop-tape', 'stop', 0, 1, 'fixed'),
      addModulator('scratch', 'envelope', { id: 'wrist', name: 'Wrist', params: {} }),
      linkValue('wrist', 'scratch-tape', 'scratch', 0, 1, 'fixed'),
      addModulator('chorus-parts', 'lfo', { id: 'swell', name: 'Swell', params: { rate: 0.7 } }),
      linkValue('swell', 'chorus-delay-0', 'time', 0.009, 0.015, 'fixed'),
      linkValue('swell', 'chorus-delay-1', 'time', 0.015, 0.009, 'fixed'),
      updateLink('to-chorus-delay-0-time', { law: 'unit' }),
      updateLink('to-chorus-delay-1-time', { law: 'unit' }),
      addModulator('cloud', 'lfo', { id: 'wander', name: 'Wander', params: { rate: 0.31 } }),
      linkValue('wander', 'cloud-taps', 'taps[*].cutoff', 400, 5200, 'fixed'),
      updateLink('to-cloud-taps-taps-cutoff', { fan: { phase: 1, rate: 2, random: 0 } }),
      addModulator('cloud', 'lfo', { id: 'drops', name: 'Drops', params: { sync: 1, length: 1, shape: 5 } }),
      linkValue('drops', 'cloud-taps', 'taps[*].pan', -1, 1, 'fixed'),
      updateLink('to-cloud-taps-taps-pan', { fan: { phase: 7, rate: 0, random: 0.4 } }),
      addModulator('blur', 'macro', { id: 'before', name: 'Before the drop', params: { value: 0 } }),
      linkValue('before', 'blur-stutter', 'hold', 0, 1, 'fixed'),
      linkValue('before', 'blur-reverb', 'wet', 0.1, 0.6, 'fixed'),
      setSidechain('ducked-delay', { track: 'ducked', point: 'before' }),
    ],
  })
}
