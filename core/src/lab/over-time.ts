import type { AudioData, Stereo } from '../contract/audio'
import { LoudnessMeter } from '../dsp/loudness'
import { toDb } from '../dsp/math'
import { planRender, render } from '../render/render'
import type { LabResult } from './result'
import type { LabSettings } from './settings'
import { type LabSubject, nodesOf } from './subject'

/** Seconds between two values, and for which crest is told. */
const HOP = 0.1
const WINDOW = 0.4

/** The track’s own sound through the chain from the start of the loop, without the effects of the mix. */
export function ownSound(
  subject: LabSubject,
  seconds: number,
  audio: (hash: string) => AudioData | null,
): Stereo {
  const { project, track } = subject
  const nodes = nodesOf(subject)
  const alone = {
    ...project,
    tracks: project.tracks.map((t) => {
      const chain = t.id === track ? { nodes: [...nodes] } : t.kind === 'mix' ? { nodes: [] } : null
      return chain ? { ...t, a: chain, b: null, heard: 'a' as const } : t
    }),
  }
  const from = (project.loop.start * 60) / project.tempo
  const plan = planRender(alone, { track, from, to: from + seconds, tail: 0 })
  const out: [Float32Array, Float32Array] = [new Float32Array(plan.frames), new Float32Array(plan.frames)]
  let at = 0
  for (const { channels, done } of render(plan, audio)) {
    channels.forEach((c, side) => out[side]?.set(c.subarray(0, done - at), at))
    at = done
  }
  return out
}

/** Loudness (BS.1770-4) and crest of a sound, every 100 ms. */
export function overTime([left, right]: Stereo, sampleRate: number): LabResult {
  const hop = Math.round(HOP * sampleRate)
  const window = Math.round(WINDOW * sampleRate)
  const meter = new LoudnessMeter(sampleRate)
  const [x, momentary, short, crest]: [number[], number[], number[], number[]] = [[], [], [], []]
  const heard = (loudness: number): number => (loudness > -100 ? loudness : NaN)
  for (let end = hop; end <= left.length; end += hop) {
    meter.process(left.subarray(end - hop, end), right.subarray(end - hop, end))
    x.push(end / sampleRate)
    momentary.push(end >= window ? heard(meter.momentary) : NaN)
    short.push(end >= 3 * sampleRate ? heard(meter.shortTerm) : NaN)
    let [peak, power] = [0, 0]
    const from = Math.max(0, end - window)
    for (let i = from; i < end; i++) {
      peak = Math.max(peak, Math.abs(left[i]), Math.abs(right[i]))
      power += (left[i] ** 2 + right[i] ** 2) / 2
    }
    const mean = Math.sqrt(power / (end - from))
    crest.push(mean > 1e-5 ? toDb(peak / mean) : NaN)
  }
  const time = { name: 'Time', unit: 's', scale: 'linear', from: 0 } as const
  const at = Float64Array.from(x)
  return {
    charts: [
      {
        id: 'loudness',
        title: 'Loudness over time',
        x: time,
        y: { name: 'Loudness', unit: 'LUFS', scale: 'linear' },
        curves: [
          { name: 'Momentary', x: at, y: Float64Array.from(momentary) },
          { name: 'Short-term', x: at, y: Float64Array.from(short) },
        ],
      },
      {
        id: 'crest',
        title: 'Crest over time',
        x: time,
        y: { name: 'Peak above RMS', unit: 'dB', scale: 'linear', from: 0 },
        curves: [{ name: '', x: at, y: Float64Array.from(crest) }],
      },
    ],
    figures: [{ name: 'Integrated', value: meter.integrated > -100 ? meter.integrated : null, unit: 'LUFS' }],
  }
}

/** Loudness and crest of a track’s own sound over the first seconds of the loop. */
export const trackOverTime = (
  subject: LabSubject,
  { seconds }: LabSettings,
  audio: (hash: string) => AudioData | null,
): LabResult => overTime(ownSound(subject, seconds, audio), subject.project.sampleRate)
