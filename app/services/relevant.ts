import type { Project } from '@oleaje/core/project/schema'

/** What of a project the sound of one track follows from: other names and takes change nothing. */
export const relevant = (p: Project, track: string): Project => ({
  ...p,
  id: 'try-out',
  name: '',
  snapshots: [],
  sections: [],
  controls: [],
  tracks: p.tracks.map((t) => ({ ...t, takes: undefined, name: t.id === track ? '' : t.name })),
})
