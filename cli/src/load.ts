import { existsSync, readFileSync, readdirSync, statSync } from 'node:fs'
import { basename, dirname, join, resolve } from 'node:path'
import type { AudioData } from '@oleaje/core/contract/audio'
import { type Bundle, readBundle } from '@oleaje/core/formats/bundle'
import { audioHash } from '@oleaje/core/formats/hash'
import { audioFileNames, readAnyAudio } from '@oleaje/core/formats/read-audio'
import { atProjectRate } from '@oleaje/core/formats/sound-names'
import { limits, sentenceOf } from '@oleaje/core/limits'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'

/** A project, its sounds at its rate, and every file that it was read from. */
export interface Loaded extends Bundle {
  readonly files: readonly string[]
}

/**
 * Reads a project from disk: a bundle (zip), or a project.json whose sounds lie beside it or in `audio/`, under any
 * name; they are known by their content. A file beside it that cannot be read and is not needed is left alone.
 * @throws with a sentence for a person
 */
export async function loadProject(path: string): Promise<Loaded> {
  const file = readWhole(path)
  if (file[0] === 0x50 && file[1] === 0x4b) return { ...(await readBundle(file)), files: [resolve(path)] }
  const project = readProject(file.toString('utf8'))
  const { audio, files, unread } = await soundsBeside(path, project)
  for (const [hash, ref] of Object.entries(project.audio)) {
    if (audio.has(hash)) continue
    const why = unread.length
      ? ` Not read: ${unread.slice(0, 5).join('; ')}${unread.length > 5 ? `; and ${unread.length - 5} more` : ''}.`
      : ''
    throw new Error(`The sound “${ref.name}” is missing: put its file (WAV, AIFF, FLAC, MP3 or Ogg) beside ${path}.${why}`)
  }
  return { ...atProjectRate({ project, audio }), files: [resolve(path), ...files] }
}

/** The sounds of a project that lie beside its file, by hash, the files they came from, and what could not be read, with the reason. */
async function soundsBeside(path: string, project: Project): Promise<{ audio: Map<string, AudioData>; files: string[]; unread: string[] }> {
  const wanted = new Set(Object.keys(project.audio))
  const audio = new Map<string, AudioData>()
  const [files, unread]: [string[], string[]] = [[], []]
  for (const folder of [dirname(path), join(dirname(path), 'audio')]) {
    if (!existsSync(folder)) continue
    for (const name of readdirSync(folder).filter((n) => audioFileNames.test(n))) {
      if (audio.size === wanted.size) break
      try {
        const sound = await readAnyAudio(readWhole(join(folder, name)))
        const hash = audioHash(sound)
        if (!wanted.has(hash)) continue
        audio.set(hash, sound)
        files.push(resolve(folder, name))
      } catch (error) {
        unread.push(`“${name}”: ${error instanceof Error ? error.message : String(error)}`)
      }
    }
  }
  return { audio, files, unread }
}

/** A whole file, where it is one and not too large. @throws with a sentence */
function readWhole(path: string): Buffer {
  const found = statSync(path, { throwIfNoEntry: false })
  if (!found) throw new Error(`There is no file “${path}”.`)
  if (!found.isFile()) throw new Error(`“${path}” is not a file that can be read.`)
  if (found.size > limits.soundFile.most)
    throw new Error(`“${basename(path)}” cannot be read: ${sentenceOf('soundFile', Math.round(found.size / 1e6))}`)
  return readFileSync(path)
}
