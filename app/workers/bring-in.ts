import type { DecodedAudio } from '@oleaje/core/formats/audio-file'
import { importSound } from '@oleaje/core/formats/stored-sound'
import type { Sound } from '../contract/messages'
import { LongSoundWriter } from '../storage/long-sounds'

/** Sounds that were brought in and have not been seen in a project yet. */
export const onTheirWay = new Set<string>()

/** Brings a sound to a rate; a long one is put away in pieces. */
export async function bringIn(
  pieces: AsyncIterable<DecodedAudio>,
  sampleRate: number | null,
  former = false,
): Promise<Sound & { readonly formerHash?: string }> {
  const writer = new LongSoundWriter()
  try {
    const found = await importSound(pieces, sampleRate, (bytes) => writer.write(bytes), former)
    onTheirWay.add(found.hash)
    return 'stored' in found
      ? { ...(await writer.end(found.hash, found.stored)), formerHash: found.formerHash }
      : found
  } catch (error) {
    await writer.drop()
    throw error
  }
}
