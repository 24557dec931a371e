import { type Ref, shallowRef, watch } from 'vue'
import type { Sound } from '../contract/messages'

/** Samples of a sound by channel, from frame `first` of the sound on. */
export interface SoundPart {
  readonly first: number
  readonly channels: readonly Float32Array[]
}

/**
 * More frames than these are never read at once from a long sound: a picture this wide is drawn from its
 * peaks.
 */
const MOST_FRAMES = 1 << 19

/**
 * Samples of a sound from which the part from frame `from` to `to` can be drawn: the whole of a sound that is
 * held, and of a long one that part alone, read from where it is kept. Null while nothing is at hand, and
 * where the part is too long.
 */
export function useSoundPart(
  sound: () => Sound | undefined,
  span: () => readonly [number, number],
): Ref<SoundPart | null> {
  const part = shallowRef<SoundPart | null>(null)
  let wanted = 0
  watch(
    [sound, () => span()[0], () => span()[1]] as const,
    async ([it, from, to], [before]) => {
      const mine = ++wanted
      if (it !== before) part.value = null
      if (!it?.long) {
        if (it) part.value = { first: 0, channels: it.channels }
        return
      }
      const { data, channelCount, frames } = it.long
      const [first, end] = [Math.max(0, Math.floor(from)), Math.min(frames, Math.ceil(to) + 1)]
      const known = part.value
      if (known && known.first <= first && known.first + (known.channels[0]?.length ?? 0) >= end) return
      part.value = null
      if (end - first > MOST_FRAMES) return
      // as much again on both sides, so that scrolling has it already
      const [a, b] = [Math.max(0, 2 * first - end), Math.min(frames, 2 * end - first)]
      // what cannot be read is drawn from the peaks, and told of where it is to be heard
      const read = await data
        .slice(4 * channelCount * a, 4 * channelCount * b)
        .arrayBuffer()
        .catch(() => null)
      if (!read || mine !== wanted) return
      const bytes = new DataView(read)
      const channels = Array.from({ length: channelCount }, (_, c) => {
        const x = new Float32Array(b - a)
        for (let i = 0; i < x.length; i++) x[i] = bytes.getFloat32(4 * (i * channelCount + c), true)
        return x
      })
      part.value = { first: a, channels }
    },
    { immediate: true },
  )
  return part
}
