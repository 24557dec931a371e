import { listensTo, presetOfTrack } from '@oleaje/core/project/preset'
import type { Project } from '@oleaje/core/project/schema'
import { soundsOf } from '@oleaje/core/sources/index'

/** Sounds that one track needs: its own, those of its effects, and those of tracks that it listens to. */
export function soundsHeard(p: Project, track: string): Set<string> {
  const preset = presetOfTrack(p, track)
  const tracks = new Set([track, ...(preset ? listensTo(preset) : [])])
  return new Set([
    ...p.tracks
      .filter((t) => tracks.has(t.id) && t.source)
      .flatMap((t) => (t.source ? soundsOf(t.source) : [])),
    ...Object.keys(preset?.audio ?? {}),
  ])
}
