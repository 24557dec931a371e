import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { readProject } from '../project/read'
import type { Project } from '../project/schema'
import type { AudioData } from '../contract/audio'
import { readWav, writeWav } from './wav'

/** A bundle that cannot be taken. The message is a sentence for a person. */
export class BundleError extends Error {
  override name = 'BundleError'
}

export interface Bundle {
  readonly project: Project
  readonly audio: ReadonlyMap<string, AudioData>
}

export interface BundleLimits {
  /** Bytes that all files together may unpack to. */
  readonly unpacked: number
  readonly files: number
}

export const defaultLimits: BundleLimits = { unpacked: 1024 * 1024 * 1024, files: 512 }

const PROJECT_FILE = 'project.json'

/** Writes a project with its audio as one zip file: project.json, and audio/HASH.wav in 32-bit float. */
export function writeBundle({ project, audio }: Bundle): Uint8Array<ArrayBuffer> {
  const files: Record<string, [Uint8Array, { level: 0 | 6 }]> = { [PROJECT_FILE]: [strToU8(JSON.stringify(project, null, 1)), { level: 6 }] }
  for (const hash of Object.keys(project.audio)) {
    const sound = audio.get(hash)
    if (!sound) throw new BundleError(`The sound “${project.audio[hash]?.name ?? hash}” is missing, so the bundle would not be whole.`)
    files[`audio/${hash}.wav`] = [writeWav({ sampleRate: sound.sampleRate, channels: [...sound.channels] }, 32), { level: 6 }]
  }
  return zipSync(files, { mtime: new Date('2026-01-01T00:00:00') }) as Uint8Array<ArrayBuffer>
}

/**
 * Reads a bundle. Nothing is unpacked before names, number and promised sizes of its files have been checked.
 * @throws BundleError, ProjectError, AudioFormatError
 */
export function readBundle(file: Uint8Array, limits: BundleLimits = defaultLimits): Bundle {
  if (file.length < 4 || file[0] !== 0x50 || file[1] !== 0x4b) throw new BundleError('This is not a bundle: it is not a zip file.')
  let files: Record<string, Uint8Array>
  let total = 0
  let count = 0
  try {
    files = unzipSync(file, {
      filter: ({ name, originalSize, size }) => {
        if (name.includes('..') || name.startsWith('/') || name.includes('\\') || name.includes(':')) throw new BundleError(`This bundle has a file with a forbidden name in it, “${name.slice(0, 80)}”.`)
        if (++count > limits.files) throw new BundleError(`This bundle has more than ${limits.files} files in it.`)
        total += originalSize
        if (total > limits.unpacked || originalSize > Math.max(1_000_000, size * 1100)) throw new BundleError(`This bundle would unpack to more than ${Math.round(limits.unpacked / 1024 / 1024)} MB, or to far more than it can honestly hold.`)
        return name === PROJECT_FILE || /^audio\/[A-Za-z0-9_-]{1,128}\.wav$/.test(name)
      },
    })
  } catch (error) {
    if (error instanceof BundleError) throw error
    throw new BundleError('This bundle is broken: it cannot be unpacked.')
  }
  const text = files[PROJECT_FILE]
  if (!text) throw new BundleError('This zip file has no project.json in it, so it is not a bundle.')
  const project = readProject(strFromU8(text))
  const audio = new Map<string, AudioData>()
  for (const [hash, ref] of Object.entries(project.audio)) {
    const wav = files[`audio/${hash}.wav`]
    if (!wav) throw new BundleError(`The sound “${ref.name}” is missing from this bundle.`)
    audio.set(hash, readWav(wav))
  }
  return { project, audio }
}
