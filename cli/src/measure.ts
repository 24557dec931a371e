import { loudnessRange } from '@oleaje/core/analysis/loudness-range'
import { type SoundFigures, framesOf as spectrumOf, soundFigures } from '@oleaje/core/analysis/sound-figures'
import type { AudioData } from '@oleaje/core/contract/audio'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { toDb } from '@oleaje/core/dsp/math'
import { TruePeakMeter } from '@oleaje/core/dsp/true-peak'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import { defineCommand } from 'citty'
import { sourceOfFile } from './load'

/** Seconds of a file whose spectrum is measured; level and loudness are those of all of it. */
const SPECTRUM_SECONDS = 300
/** Frames at a time. */
const HOP_SECONDS = 0.1

/** What is measured of a file of sound. */
export interface MeasuredFile {
  readonly seconds: number
  readonly sampleRate: number
  readonly channels: number
  /** LUFS, dBTP, LU. */
  readonly loudness: number
  readonly truePeak: number
  readonly range: number
  readonly spectrum: Pick<SoundFigures, 'brightness' | 'movement' | 'width' | 'crest'>
}

/** `oleaje measure FILE…`: figures of sounds, as a table or a line of JSON for each. */
export const measureCommand = defineCommand({
  meta: { name: 'measure', description: 'Measure loudness, peak, range and spectrum of sounds' },
  args: {
    files: { type: 'positional', description: 'sounds to measure', required: true },
    json: { type: 'boolean', description: 'a line of JSON for each', default: false },
  },
  async run({ args }) {
    let failed = 0
    if (!args.json) console.log(columns.map(([name, , width]) => name.padStart(width)).join(' ') + '  File')
    for (const file of args._) {
      try {
        const found = await measured(file)
        if (args.json) console.log(JSON.stringify({ file, ...found, ...found.spectrum, spectrum: undefined }))
        else
          console.log(columns.map(([, text, width]) => text(found).padStart(width)).join(' ') + `  ${file}`)
      } catch (error) {
        failed++
        console.error(`✗ ${file}: ${error instanceof Error ? error.message : String(error)}`)
      }
    }
    process.exitCode = Math.min(100, failed)
  },
})

const columns: readonly (readonly [string, (f: MeasuredFile) => string, number])[] = [
  ['Length s', (f) => f.seconds.toFixed(2), 9],
  ['Rate Hz', (f) => String(f.sampleRate), 8],
  ['LUFS', (f) => (Number.isFinite(f.loudness) ? f.loudness.toFixed(1) : 'silent'), 7],
  ['dBTP', (f) => f.truePeak.toFixed(1), 7],
  ['Range LU', (f) => f.range.toFixed(1), 9],
  ['Centroid Hz', (f) => f.spectrum.brightness.toFixed(0), 12],
  ['Movement dB', (f) => f.spectrum.movement.toFixed(1), 12],
  ['Crest dB', (f) => f.spectrum.crest.toFixed(1), 9],
]

/** Measures a file piece by piece, so that its length does not matter to memory. @throws with a sentence */
async function measured(path: string): Promise<MeasuredFile> {
  const source = sourceOfFile(path)
  try {
    let meters: Meters | null = null
    for await (const piece of audioPieces(source)) {
      meters ??= new Meters(piece.sampleRate, piece.channels.length)
      meters.add(piece)
    }
    if (!meters) throw new Error('There is no sound in it.')
    return meters.figures
  } finally {
    source.close()
  }
}

class Meters {
  private readonly loudness: LoudnessMeter
  private readonly peaks = [new TruePeakMeter(), new TruePeakMeter()] as const
  private readonly shortTerm: number[] = []
  private readonly kept: [Float32Array[], Float32Array[]] = [[], []]
  private readonly silence: Float32Array
  private frames = 0
  private sinceHop = 0

  constructor(
    private readonly sampleRate: number,
    private readonly channels: number,
  ) {
    this.loudness = new LoudnessMeter(sampleRate)
    this.silence = new Float32Array(Math.round(HOP_SECONDS * sampleRate))
  }

  add({ channels }: AudioData): void {
    const left = channels[0] ?? new Float32Array(0)
    const right = channels[1] ?? left
    this.peaks[0].process(left)
    this.peaks[1].process(right)
    const hop = Math.round(HOP_SECONDS * this.sampleRate)
    for (let at = 0; at < left.length;) {
      const n = Math.min(left.length - at, hop - this.sinceHop)
      // mono is one loudspeaker, not two
      const other = channels[1]?.subarray(at, at + n) ?? this.silence.subarray(0, n)
      this.loudness.process(left.subarray(at, at + n), other)
      at += n
      this.sinceHop += n
      this.frames += n
      if (this.sinceHop < hop) continue
      this.sinceHop = 0
      if (this.frames >= 3 * this.sampleRate) this.shortTerm.push(this.loudness.shortTerm)
    }
    if (this.frames > SPECTRUM_SECONDS * this.sampleRate && this.kept[0].length) return
    this.kept[0].push(left.slice())
    this.kept[1].push(right.slice())
  }

  get figures(): MeasuredFile {
    const stereo = this.kept.map(joined) as unknown as readonly [Float32Array, Float32Array]
    const { brightness, movement, width, crest } = soundFigures(
      stereo,
      this.sampleRate,
      spectrumOf(stereo, this.sampleRate),
    )
    return {
      seconds: this.frames / this.sampleRate,
      sampleRate: this.sampleRate,
      channels: this.channels,
      loudness: this.loudness.integrated,
      truePeak: toDb(Math.max(this.peaks[0].peak, this.peaks[1].peak)),
      range: loudnessRange(this.shortTerm),
      spectrum: { brightness, movement, width, crest },
    }
  }
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const all = new Float32Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}
