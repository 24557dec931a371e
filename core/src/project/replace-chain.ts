import type { Edit } from './edit'
import { newEffect } from './new'
import { type Preset, type Taken, takePresetInto } from './preset'
import type { Modulator, Project } from './schema'
import { dropStrayLinks } from './target-edits'
import { heardChain, trackOf } from './walk'

/** Whether a modulator moves something, feeds another, or is steered by a controller. */
const isUsed = (p: Project, { id }: Modulator): boolean =>
  p.links.some((l) => l.source === id) ||
  p.controls.some((c) => c.target.owner === id) ||
  p.tracks.some((t) => t.modulators.some((m) => m.inputs.some((input) => input?.source === id)))

/**
 * Takes a preset in place of the whole chain of a track. Modulators that moved nothing but the old chain go
 * with it; those that were unused before stay.
 */
export const replaceChain =
  (track: string, preset: Preset, taken: (t: Taken) => void = () => {}): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t) return
    const used = new Set(t.modulators.filter((m) => isUsed(p, m)).map((m) => m.id))
    takePresetInto(track, preset, { chainOf: track }, taken)(p)
    // one that is gone may have been all that another moved
    for (let before = -1; before !== t.modulators.length;) {
      before = t.modulators.length
      t.modulators = t.modulators.filter((m) => !used.has(m.id) || isUsed(p, m))
      dropStrayLinks(p)
    }
  }

/** Id of the gain at the end of a chain that is auditioned, which matches its level. */
export const AUDITION_LEVEL = 'audition-level'

/** The project as it is heard while a preset is auditioned on a track, its level changed by some dB. */
export const auditioned =
  (track: string, preset: Preset, level: number): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t) return
    if (preset.kind === 'modulators') takePresetInto(track, preset, { at: { startOf: track } })(p)
    else replaceChain(track, preset)(p)
    heardChain(t).nodes.push(newEffect('gain', { level }, AUDITION_LEVEL))
  }
