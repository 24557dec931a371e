import type { Note, Track } from '@oleaje/core/project/schema'
import { type ShallowRef, shallowRef, watch } from 'vue'
import { useSession } from './useSession'

const none: readonly Note[] = []

/**
 * The notes that the arpeggio of a track plays, drawn behind the held ones; none where it is off. The worker
 * works them out, one request at a time; edits in between are covered by the next request.
 */
export function useArpeggioGhosts(track: () => Track): Readonly<ShallowRef<readonly Note[]>> {
  const { doc, heavy } = useSession()
  const ghosts = shallowRef(none)
  let isAsked = false
  let isStale = false

  async function ask(): Promise<void> {
    isStale = true
    if (isAsked) return
    isAsked = true
    while (isStale) {
      isStale = false
      const { line, arpeggio } = track()
      ghosts.value =
        arpeggio?.on && line?.notes.length
          ? await heavy.call.arpeggioNotes(line, arpeggio, doc.project?.tempo ?? 120).catch(() => none)
          : none
    }
    isAsked = false
  }
  watch(() => [track().line, track().arpeggio, doc.project?.tempo], ask, { immediate: true })
  return ghosts
}
