import { bytesInMemory } from '@oleaje/core/formats/byte-asks'
import type { PresetBatch } from '@oleaje/core/formats/preset-batch'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import { importSound } from '@oleaje/core/formats/stored-sound'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { StoredZip } from '@oleaje/core/formats/zip-parts'
import { limits, sentenceOf } from '@oleaje/core/limits'
import type { AudioData } from '@oleaje/core/contract/audio'
import { deliver } from '@oleaje/core/render/deliver'
import { type DeliveryOrder, planDelivery, usualOrder } from '@oleaje/core/render/delivery'
import { SOUND_TRACK, soundThrough } from '@oleaje/core/render/sound-through'

/** Tempo in bpm for times that are synced, where the request names none. */
const TEMPO = 120
/** Name of the last file: what was measured of each, and what failed with the reason. */
const REPORT = 'report.json'

/**
 * Puts the sounds of a request through its preset, one after the other, into a zip file that is given piece
 * by piece; the next is made when `give` has resolved. A sound that fails is named in the report, and the
 * others are rendered.
 */
export async function renderBatch(
  { preset, sounds }: PresetBatch,
  o: { readonly depth: WavDepth; readonly tail: number | 'auto' },
  give: (bytes: Uint8Array) => Promise<void>,
): Promise<void> {
  const zip = new StoredZip(give)
  const report: object[] = []
  const order: DeliveryOrder = {
    ...usualOrder,
    what: 'track',
    track: SOUND_TRACK,
    depth: o.depth,
    tail: o.tail,
  }
  let left = limits.requestLength.most
  for (const { name, read } of sounds) {
    try {
      const sound = await held(await read())
      const { project, audio } = await soundThrough(preset, sound.hash, sound, TEMPO)
      const [file] = planDelivery(project, order)
      if (!file) continue
      const work = deliver(file, (hash) => audio.get(hash) ?? null)
      // what is wrong is found before a file is begun in the zip
      let step = await work.next()
      const out = `${name.replace(/\.[^.]*$/, '')}.wav`
      const parts = async function* (): AsyncGenerator<Uint8Array> {
        for (; !step.done; step = await work.next()) if (step.value.bytes.length) yield step.value.bytes
      }
      await zip.add(out, parts())
      if (!step.done) continue
      left -= step.value.seconds
      report.push({ file: name, out, ...step.value })
      if (left < 0) throw new Error(sentenceOf('requestLength', Math.round(limits.requestLength.most / 60)))
    } catch (error) {
      report.push({ file: name, failed: error instanceof Error ? error.message : String(error) })
      if (left < 0) break
    }
  }
  await zip.add(REPORT, bytesInMemory(new TextEncoder().encode(JSON.stringify(report, null, 1))))
  await zip.end()
}

/** A sound in memory. @throws with a sentence where it is too long for a request */
async function held(bytes: Uint8Array): Promise<AudioData & { readonly hash: string }> {
  const found = await importSound(audioPieces(bytesInMemory(bytes)), null, () => {
    throw new Error('This sound is too long for a request. Use the command line.')
  })
  if (!('channels' in found)) throw new Error('This sound is too long for a request. Use the command line.')
  return found
}
