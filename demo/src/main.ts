/**
 * Synthesises the demo's audio and project into demo/assets. The files are committed; run this to make them
 * anew.
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { formerNames } from '@oleaje/core/formats/former-hash'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { tapes } from './night-ferry'
import type { DemoSound } from './assemble'
import { withoutDc } from './without-dc'
import { motionStudies } from './motion-studies'
import { playingStudies } from './playing-studies'
import { nightFerry } from './project'
import { phraseFiles } from './library/assets'
import { startingChains } from './starting-chains'
import { timeStudies } from './time-studies'
import { toneStudies } from './tone-studies'

const folder = join(dirname(fileURLToPath(import.meta.url)), '..', 'assets')
mkdirSync(folder, { recursive: true })
const sounds: DemoSound[] = []
for (const tape of tapes) {
  const sides = tape.record().map(withoutDc)
  const wav = writeWav({ sampleRate: 48_000, channels: tape.stereo ? sides : sides.slice(0, 1) }, 16)
  const audio = readWav(wav)
  const hash = await audioHash(audio)
  writeFileSync(join(folder, `${tape.file}.wav`), wav)
  sounds.push({
    file: tape.file,
    title: tape.title,
    hash,
    formerly: formerNames(audio)[0],
    frames: audio.channels[0]?.length ?? 0,
    channels: audio.channels.length,
  })
  console.log(`${tape.title}: ${(wav.length / 1024).toFixed(0)} kB`)
}
const projects = [
  nightFerry(sounds),
  motionStudies(sounds),
  toneStudies(sounds),
  timeStudies(sounds),
  playingStudies(sounds),
]
for (const p of projects) writeFileSync(join(folder, `${p.id}.json`), `${JSON.stringify(p, null, 1)}\n`)
writeFileSync(
  join(folder, 'catalogue.json'),
  `${JSON.stringify({ projects: projects.map(({ id, name }) => ({ id, name, file: `${id}.json` })), chains: startingChains, phrases: phraseFiles, sounds }, null, 1)}\n`,
)
console.log('Night Ferry is written to demo/assets.')
