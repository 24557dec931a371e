import type { AudioData } from '../contract/audio'
import { aliases } from './aliases'
import { dynamics } from './dynamics'
import { echoMap } from './echoes'
import { harmonicsByFrequency, harmonicsByLevel } from './harmonics'
import { impulseAndStep } from './impulse-and-step'
import { intermodulation } from './intermodulation'
import { latency } from './latency'
import { noiseFloor } from './noise-floor'
import { trackOverTime } from './over-time'
import { response } from './response'
import type { LabResult } from './result'
import { reverberation } from './reverberation'
import type { LabSettings } from './settings'
import { stereo } from './stereo'
import type { LabSubject } from './subject'
import { sweepPicture } from './sweep-picture'
import { type Through, chainThrough } from './through'
import { transfer } from './transfer'

/** A kind of measurement, as it is offered. */
interface MeasurementKind {
  readonly name: string
  readonly group: 'Filters' | 'Distortion' | 'Dynamics' | 'Time' | 'Stereo and level'
  /** What it shows, and which standard or paper defines it. */
  readonly explains: string
  /** Settings that matter, beside modulation. */
  readonly asks: readonly ('level' | 'frequency' | 'seconds' | 'smoothing')[]
}

export const measurements = {
  'response': {
    name: 'Frequency response',
    group: 'Filters',
    explains:
      'How much louder, how far turned and how late each frequency comes out. Measured by a sine sweep (Farina, 2000); the declared latency is taken off.',
    asks: ['level', 'smoothing'],
  },
  'impulse': {
    name: 'Impulse and step',
    group: 'Filters',
    explains:
      'The response to one sample, and to a level that jumps and stays. Ringing shows resonances; a slope after the step shows a bass cut. Shows 100 ms at most.',
    asks: ['seconds'],
  },
  'sweep': {
    name: 'Sweep spectrogram',
    group: 'Filters',
    explains:
      'Level by frequency while a sine rises from 20 Hz. Lines above the sine are harmonics, falling lines are aliases, and trails are resonance or echo.',
    asks: ['level'],
  },
  'transfer': {
    name: 'Transfer curve',
    group: 'Distortion',
    explains:
      'Output against input for each sample of one cycle. A straight line is clean, a bent one adds harmonics, a loop has a memory, as filters do.',
    asks: ['level', 'frequency'],
  },
  'harmonics-by-level': {
    name: 'Harmonics by level',
    group: 'Distortion',
    explains:
      'Harmonics that a tone gains as it gets louder, with THD (IEC 60268-3) and THD+N (AES17), in dB below the tone.',
    asks: ['level', 'frequency'],
  },
  'harmonics-by-frequency': {
    name: 'Harmonics by frequency',
    group: 'Distortion',
    explains:
      'The same for tones of one level from 20 Hz up, three to an octave. THD by IEC 60268-3, THD+N by AES17.',
    asks: ['level'],
  },
  'aliases': {
    name: 'Aliases',
    group: 'Distortion',
    explains:
      'Harmonics above half the sample rate come back as wrong tones. Their level is shown in dB below the tone; below −80 dB they are hardly ever heard.',
    asks: ['level', 'frequency'],
  },
  'intermodulation': {
    name: 'Intermodulation',
    group: 'Distortion',
    explains:
      'Tones that two tones make together: SMPTE RP 120 with 60 Hz and 7 kHz at 4 to 1, CCIF (IEC 60268-3) with 19 and 20 kHz at 1 to 1.',
    asks: [],
  },
  'dynamics': {
    name: 'Gain and timing',
    group: 'Dynamics',
    explains:
      'Gain of a steady tone against its level, and how the gain follows a jump of 24 dB. Attack and release are the times to 63 % of the way in dB.',
    asks: ['level', 'frequency'],
  },
  'echoes': {
    name: 'Echo map',
    group: 'Time',
    explains:
      'Time, level and side of each echo of one click: delays show as single marks, reverberation as a cloud.',
    asks: ['seconds'],
  },
  'reverberation': {
    name: 'Reverberation time',
    group: 'Time',
    explains:
      'Seconds until each octave has fallen by 60 dB, from the fall between −5 and −35 dB (ISO 3382-1) of the energy to come (Schroeder, 1965).',
    asks: [],
  },
  'latency': {
    name: 'Latency',
    group: 'Time',
    explains:
      'The latency that the chain declares, which tracks are aligned by, and where a click really arrives.',
    asks: [],
  },
  'stereo': {
    name: 'Stereo width',
    group: 'Stereo and level',
    explains:
      'Pink noise, the same on both sides. A correlation of 1 is mono, 0 is wide, below 0 cancels in mono; width is the level of the sides against the middle.',
    asks: ['level', 'seconds'],
  },
  'loudness': {
    name: 'Loudness over time',
    group: 'Stereo and level',
    explains:
      'The sound of the track through the chain, from the start of the loop: loudness by ITU-R BS.1770-4, and how far peaks stand above the RMS level of 400 ms.',
    asks: ['seconds'],
  },
  'noise': {
    name: 'Noise floor',
    group: 'Stereo and level',
    explains:
      'The output of the chain for silence, by thirds of an octave. A-weighting (IEC 61672-1) counts what the ear hears most.',
    asks: ['seconds'],
  },
} as const satisfies Record<string, MeasurementKind>

export type MeasurementId = keyof typeof measurements
export const measurementIds = Object.keys(measurements) as MeasurementId[]

const byTestSignal: Record<
  Exclude<MeasurementId, 'loudness'>,
  (through: Through, settings: LabSettings) => LabResult
> = {
  response,
  'impulse': impulseAndStep,
  'sweep': sweepPicture,
  transfer,
  'harmonics-by-level': harmonicsByLevel,
  'harmonics-by-frequency': harmonicsByFrequency,
  aliases,
  intermodulation,
  dynamics,
  'echoes': echoMap,
  reverberation,
  latency,
  stereo,
  'noise': noiseFloor,
}

/** Measures a state of a chain, by the same engine that plays it. */
export const measure = (
  id: MeasurementId,
  subject: LabSubject,
  settings: LabSettings,
  audio: (hash: string) => AudioData | null,
): LabResult =>
  id === 'loudness'
    ? trackOverTime(subject, settings, audio)
    : byTestSignal[id](chainThrough(subject, settings, audio), settings)
