import { arpeggiated } from '@oleaje/core/engine/arpeggiated'
import type { Note, Track } from '@oleaje/core/project/schema'

/** Longest line in quarter notes whose arpeggio is worked out while it is looked at. */
const LONGEST = 256

/** The notes that the arpeggio of a track plays, drawn behind the held ones; none where it is off. */
export function arpeggioGhosts({ line, arpeggio }: Track, tempo: number): readonly Note[] {
  if (!arpeggio?.on || !line?.notes.length || line.length > LONGEST) return none
  return arpeggiated(line, arpeggio, tempo)
}
const none: readonly Note[] = []
