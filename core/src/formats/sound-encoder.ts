import { AudioFormatError } from './audio-file'
import { type WavDepth, WavEncoder, wavHeader } from './wav'

export const soundFormats = ['wav', 'flac', 'mp3'] as const
export type SoundFormat = (typeof soundFormats)[number]

/** Rates in Hz that MP3 has room for, and bits a second of it here. */
const MP3_RATES: readonly number[] = [32_000, 44_100, 48_000]
const MP3_BITRATE = 320_000

/** What a file of sound is to be. */
export interface SoundFileFormat {
  readonly format: SoundFormat
  /** Bits of a sample; 32 is float and only in WAV. MP3 has none. */
  readonly depth: WavDepth
  readonly sampleRate: number
}

/** Takes stereo sound piece by piece and gives the bytes of a file. */
export interface SoundEncoder {
  /** @returns bytes that follow those before; none where the file is given at its end */
  add(channels: readonly Float32Array[]): Promise<Uint8Array<ArrayBuffer>>
  /** The rest of the file. */
  end(): Promise<Uint8Array<ArrayBuffer>>
}

/**
 * Encoder for a stereo file: WAV, FLAC with the same samples as WAV of the same depth, dither included, or
 * MP3 at 320 kbit/s. FLAC and MP3 are given whole at their end, since their headers tell of it.
 * @param frames of the whole file
 * @throws AudioFormatError for a combination that does not exist
 */
export async function soundEncoder(o: SoundFileFormat, frames: number): Promise<SoundEncoder> {
  const refused = refusedFormat(o)
  if (refused) throw new AudioFormatError(refused)
  if (o.format === 'wav') return wavFile(o, frames)
  return packaged(o)
}

/** Why there is no file of such a kind, as a sentence; empty where there is. */
export function refusedFormat({ format, depth, sampleRate }: SoundFileFormat): string {
  if (format === 'flac' && depth === 32) return 'FLAC has 16 or 24 bit. Choose WAV for 32 bit float.'
  if (format === 'mp3' && !MP3_RATES.includes(sampleRate))
    return 'MP3 has a sample rate of 32, 44.1 or 48 kHz. Choose one of them, or WAV or FLAC.'
  return ''
}

function wavFile({ depth, sampleRate }: SoundFileFormat, frames: number): SoundEncoder {
  const encoder = new WavEncoder(depth)
  let header: Uint8Array<ArrayBuffer> | null = wavHeader({ channels: 2, sampleRate, depth, frames })
  const begun = (data: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> => {
    if (!header) return data
    const all = new Uint8Array(header.length + data.length)
    all.set(header)
    all.set(data, header.length)
    header = null
    return all
  }
  return {
    add: (channels) => Promise.resolve(begun(encoder.encode(channels))),
    end: () => Promise.resolve(begun(new Uint8Array(0))),
  }
}

/** Encoders of packages, loaded when they are needed: each brings its own WebAssembly. */
async function packaged({ format, depth, sampleRate }: SoundFileFormat): Promise<SoundEncoder> {
  const { AudioSample, AudioSampleSource, BufferTarget, FlacOutputFormat, Mp3OutputFormat, Output } =
    await import('mediabunny')
  await registered(format)
  const isFlac = format === 'flac'
  const target = new BufferTarget()
  const output = new Output({ format: isFlac ? new FlacOutputFormat() : new Mp3OutputFormat(), target })
  const source = new AudioSampleSource(isFlac ? { codec: 'flac' } : { codec: 'mp3', bitrate: MP3_BITRATE })
  output.addAudioTrack(source)
  await output.start()
  const encoder = new WavEncoder(isFlac ? depth : 32)
  let frames = 0
  return {
    async add(channels) {
      const bytes = encoder.encode(channels)
      const sample = new AudioSample({
        format: !isFlac ? 'f32' : depth === 16 ? 's16' : 's32',
        data: isFlac && depth === 24 ? widened(bytes) : bytes,
        sampleRate,
        numberOfChannels: 2,
        timestamp: frames / sampleRate,
      })
      frames += channels[0]?.length ?? 0
      await source.add(sample)
      sample.close()
      return new Uint8Array(0)
    },
    async end() {
      await output.finalize()
      return new Uint8Array(target.buffer ?? new ArrayBuffer(0))
    },
  }
}

const known = new Set<SoundFormat>()

/** The package’s own encoders, so that every browser gives the same file. */
async function registered(format: SoundFormat): Promise<void> {
  if (known.has(format)) return
  known.add(format)
  if (format === 'flac') (await import('@mediabunny/flac-encoder')).registerFlacEncoder()
  else (await import('@mediabunny/mp3-encoder')).registerMp3Encoder()
}

/** Samples of 24 bits in the upper part of 32. */
function widened(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array((bytes.length / 3) * 4)
  for (let from = 0, to = 0; from < bytes.length; from += 3, to += 4)
    out.set(bytes.subarray(from, from + 3), to + 1)
  return out
}
