import {
  closeSync,
  existsSync,
  fstatSync,
  mkdtempSync,
  openSync,
  readFileSync,
  readSync,
  readdirSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, dirname, join, resolve } from 'node:path'
import type { AudioData } from '@oleaje/core/contract/audio'
import { type Bundle, type LargeSound, readBundle } from '@oleaje/core/formats/bundle'
import type { ByteSource } from '@oleaje/core/formats/byte-asks'
import { isFormerName } from '@oleaje/core/formats/former-hash'
import { audioFileNames, audioPieces } from '@oleaje/core/formats/read-audio'
import { atProjectRate, underTrueNames } from '@oleaje/core/formats/sound-names'
import { importSound, storedAudio } from '@oleaje/core/formats/stored-sound'
import { limits, sentenceOf } from '@oleaje/core/limits'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'

/** A project, its sounds at its rate, and every file that it was read from. */
export interface Loaded extends Bundle {
  readonly files: readonly string[]
}

/**
 * Reads a project from disk: a bundle (zip), or a project.json whose sounds lie beside it or in `audio/`,
 * under any name; they are known by their content. A file beside it that cannot be read and is not needed is
 * left alone.
 * @throws with a sentence for a person
 */
export async function loadProject(path: string): Promise<Loaded> {
  checkFile(path, 'bundleFile')
  const opened = openSync(path, 'r')
  try {
    const [first, second] = bytesFrom(opened, 0, 2)
    if (first === 0x50 && second === 0x4b)
      return { ...(await readBundle(sourceOf(opened), undefined, largeSound)), files: [resolve(path)] }
  } finally {
    closeSync(opened)
  }
  checkFile(path, 'projectText')
  const project = readProject(readFileSync(path, 'utf8'))
  const { audio, names, files, unread } = await soundsBeside(path, project)
  for (const [hash, ref] of Object.entries(project.audio)) {
    if (audio.has(hash)) continue
    const why = unread.length
      ? ` Not read: ${unread.slice(0, 5).join('; ')}${unread.length > 5 ? `; and ${unread.length - 5} more` : ''}.`
      : ''
    throw new Error(
      `The sound “${ref.name}” is missing: put its file (WAV, AIFF, FLAC, MP3 or Ogg) next to ${path}.${why}`,
    )
  }
  return {
    ...(await atProjectRate(await underTrueNames({ project, audio }, names))),
    files: [resolve(path), ...files],
  }
}

/** The sounds of a project that lie beside its file. */
interface Beside {
  /** By the name that the project has for them, which may be a former one, and what each is called now. */
  readonly audio: Map<string, AudioData>
  readonly names: Map<string, string>
  /** The files they came from, and what could not be read, with the reason. */
  readonly files: string[]
  readonly unread: string[]
}

async function soundsBeside(path: string, project: Project): Promise<Beside> {
  const wanted = new Set(Object.keys(project.audio))
  const former = [...wanted].some(isFormerName)
  const names = new Map<string, string>()
  const audio = new Map<string, AudioData>()
  const [files, unread]: [string[], string[]] = [[], []]
  for (const folder of [dirname(path), join(dirname(path), 'audio')]) {
    if (!existsSync(folder)) continue
    for (const name of readdirSync(folder).filter((n) => audioFileNames.test(n))) {
      if (audio.size === wanted.size) break
      try {
        const { hash, formerHash, sound } = await readSound(join(folder, name), former)
        const wantedAs = [hash, formerHash ?? ''].find((known) => wanted.has(known))
        if (wantedAs === undefined) continue
        audio.set(wantedAs, sound)
        names.set(wantedAs, hash)
        files.push(resolve(folder, name))
      } catch (error) {
        unread.push(`“${name}”: ${error instanceof Error ? error.message : String(error)}`)
      }
    }
  }
  return { audio, names, files, unread }
}

/**
 * A sound from disk, known by its content. A long one is laid down aside and read from there in pieces; it
 * goes when the program ends.
 */
export async function readSound(path: string, former: boolean): ReturnType<LargeSound['end']> {
  checkFile(path, 'soundFile')
  const file = openSync(path, 'r')
  try {
    return await soundFrom(file, former)
  } finally {
    closeSync(file)
  }
}

async function soundFrom(file: number, former: boolean): ReturnType<LargeSound['end']> {
  let aside: number | undefined
  const write = (bytes: Uint8Array): void => {
    aside ??= openAside()
    writeSync(aside, bytes)
  }
  const found = await importSound(audioPieces(sourceOf(file)), null, write, former)
  const { hash, formerHash } = found
  if (!('stored' in found)) return { hash, formerHash, sound: found }
  const store = aside ?? 0
  return {
    hash,
    formerHash,
    sound: storedAudio(found.stored, found.sampleRate, (from, to) => bytesFrom(store, from, to)),
  }
}

/** A place for a sound within a bundle that is too large to be read whole. */
function largeSound(): LargeSound {
  const file = openAside()
  return {
    write: (part) => {
      writeSync(file, part)
    },
    end: () => soundFrom(file, true),
  }
}

/** The bytes of a file, to be closed when it has been read. @throws with a sentence */
export function sourceOfFile(path: string): ByteSource & { close: () => void } {
  checkFile(path, 'soundFile')
  const file = openSync(path, 'r')
  return { ...sourceOf(file), close: () => closeSync(file) }
}

const sourceOf = (file: number): ByteSource => ({
  size: fstatSync(file).size,
  read: (from, to) => Promise.resolve(bytesFrom(file, from, to)),
})

function bytesFrom(file: number, from: number, to: number): Uint8Array {
  const bytes = new Uint8Array(to - from)
  return bytes.subarray(0, readSync(file, bytes, 0, to - from, from))
}

/**
 * A file for what is too long to be held. Its name is gone at once, so its room is given back however the
 * program ends.
 */
function openAside(): number {
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-'))
  const file = openSync(join(folder, 'sound'), 'w+')
  rmSync(folder, { recursive: true })
  return file
}

/** @throws with a sentence where there is no file, or one larger than a limit */
function checkFile(path: string, most: 'bundleFile' | 'projectText' | 'soundFile'): void {
  const found = statSync(path, { throwIfNoEntry: false })
  if (!found) throw new Error(`There is no file “${path}”.`)
  if (!found.isFile()) throw new Error(`“${path}” is not a file that can be read.`)
  if (found.size > limits[most].most)
    throw new Error(
      `“${basename(path)}” cannot be read: ${sentenceOf(most, most === 'projectText' ? 'file is' : Math.round(found.size / 1e6))}`,
    )
}
