import { isLong } from '@oleaje/core/formats/audio-file'
import type { Project } from '@oleaje/core/project/schema'

/**
 * Sounds of a project that something can play which needs all of a sound at once, by hash: long ones are none
 * of them.
 */
export const heldSounds = (project: Project | null): [string, Project['audio'][string]][] =>
  Object.entries(project?.audio ?? {}).filter(([, { frames, sampleRate }]) => !isLong(frames, sampleRate))
