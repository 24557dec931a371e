import { existsSync, readFileSync, readdirSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { type Bundle, readBundle } from '@oleaje/core/formats/bundle'
import { audioHash } from '@oleaje/core/formats/hash'
import { audioFileNames, readAudio } from '@oleaje/core/formats/read-audio'
import { readProject } from '@oleaje/core/project/read'
import type { AudioData } from '@oleaje/core/contract/audio'

/**
 * Reads a project from disk: a bundle (zip), or a project.json whose sounds lie beside it or in `audio/`, under any
 * name; they are known by their content. @throws with a sentence for a person
 */
export function loadProject(path: string): Bundle {
  if (!existsSync(path)) throw new Error(`There is no file “${path}”.`)
  const file = readFileSync(path)
  if (file[0] === 0x50 && file[1] === 0x4b) return readBundle(file)
  const project = readProject(file.toString('utf8'))
  const wanted = new Set(Object.keys(project.audio))
  const audio = new Map<string, AudioData>()
  for (const folder of [dirname(path), join(dirname(path), 'audio')]) {
    if (!existsSync(folder)) continue
    for (const name of readdirSync(folder).filter((n) => audioFileNames.test(n))) {
      if (audio.size === wanted.size) break
      const sound = readAudio(readFileSync(join(folder, name)))
      const hash = audioHash(sound)
      if (wanted.has(hash)) audio.set(hash, sound)
    }
  }
  for (const [hash, ref] of Object.entries(project.audio)) {
    if (!audio.has(hash)) throw new Error(`The sound “${ref.name}” is missing: put its WAV or AIFF file beside ${path}.`)
  }
  return { project, audio }
}
