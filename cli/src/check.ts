import { readFileSync, statSync } from 'node:fs'
import { looksLikePreset, readPreset } from '@oleaje/core/project/preset'
import { isPack, readPack } from '@oleaje/core/formats/pack'
import { audioFileNames } from '@oleaje/core/formats/read-audio'
import { defineCommand } from 'citty'
import { loadProject, readSound, sourceOfFile } from './load'

/**
 * `oleaje check FILE…`: whether projects, bundles, presets, packs and sounds can be read; a line for each.
 * The exit code is the number of those that cannot, at most 100.
 */
export const checkCommand = defineCommand({
  meta: { name: 'check', description: 'Check that projects, presets, packs and sounds can be read' },
  args: { files: { type: 'positional', description: 'files to check', required: true } },
  async run({ args }) {
    let failed = 0
    for (const file of args._) {
      try {
        console.log(`✓ ${file}: ${await kindOf(file)}`)
      } catch (error) {
        failed++
        console.log(`✗ ${file}: ${error instanceof Error ? error.message : String(error)}`)
      }
    }
    process.exitCode = Math.min(100, failed)
  },
})

/** What a file is, having been read to its end. @throws with a sentence */
async function kindOf(path: string): Promise<string> {
  if (!statSync(path, { throwIfNoEntry: false })) throw new Error('There is no such file.')
  if (audioFileNames.test(path)) {
    const { sound } = await readSound(path, false)
    return `sound, ${sound.sampleRate} Hz`
  }
  if (/\.zip$/i.test(path)) {
    const source = sourceOfFile(path)
    try {
      if (await isPack(source)) {
        const { presets, refused } = await readPack(source)
        if (refused.length) throw new Error(refused.join(' '))
        return `pack of ${presets.length} presets`
      }
    } finally {
      source.close()
    }
  }
  if (/\.json$/i.test(path)) {
    const text = readFileSync(path, 'utf8')
    if (looksLikePreset(text)) return `preset “${readPreset(text).name}”`
  }
  const { project } = await loadProject(path)
  return `project “${project.name}” with ${project.tracks.length - 1} tracks`
}
