import { mix32 } from '../dsp/random'
import type { AudioData } from '../contract/audio'

/** Content hash of decoded audio: the same sound has the same name in every project. 128 bits as hexadecimal. */
export function audioHash(audio: AudioData): string {
  const h = [0x2f0b_4c57, 0x9e37_79b9, 0x1b87_3593, 0xe654_6b64].map((x) => x ^ audio.sampleRate ^ (audio.channels.length << 24))
  for (const channel of audio.channels) {
    const words = new Uint32Array(channel.buffer, channel.byteOffset, channel.length)
    for (let k = 0; k < 4; k++) {
      let x = h[k] as number
      for (let i = 0; i < words.length; i++) x = (Math.imul(x ^ (words[i] as number), 0x01000193 + 2 * k) << 5) ^ (x >>> 27)
      h[k] = mix32(x ^ words.length)
    }
  }
  return h.map((x) => (x >>> 0).toString(16).padStart(8, '0')).join('')
}
