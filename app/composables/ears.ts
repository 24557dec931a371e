import { branchesOf } from '@oleaje/core/project/nodes/index'
import type { Listen, Project } from '@oleaje/core/project/schema'
import { heardChain, holdsId, nodesIn } from '@oleaje/core/project/walk'

interface Ear {
  readonly value: string
  readonly text: string
}

/** Signal for a sidechain or a modulator as the text of a choice; see {@link earOf}. */
export const earText = (listen: Listen | null | undefined): string =>
  listen ? [listen.track, listen.point, ...(listen.branch ? [listen.branch] : [])].join(':') : ''

/** The opposite of {@link earText}; null for an empty text. */
export function earOf(text: string): Listen | null {
  const [track, point, branch] = text.split(':')
  if (!track) return null
  return { track, point: point === 'after' ? 'after' : 'before', ...(branch ? { branch } : {}) }
}

/**
 * All signals that something can listen to: each track before and after its chain, and each branch.
 * @param own the track that it is on, which an effect hears only before its chain
 * @param node the effect that listens; branches around it are left out, since they contain it
 */
export function earsFor(project: Project, own: string | undefined, node?: string): Ear[] {
  return project.tracks.flatMap((t) => {
    const isOwn = t.id === own
    const ears: Ear[] = []
    if (t.kind === 'track' || !node)
      ears.push({
        value: earText({ track: t.id, point: 'before' }),
        text: isOwn ? `${t.name}, dry source` : `${t.name}, before chain`,
      })
    if (!node || (!isOwn && t.kind === 'track'))
      ears.push({ value: earText({ track: t.id, point: 'after' }), text: `${t.name}, after chain` })
    for (const split of nodesIn(heardChain(t).nodes))
      for (const branch of branchesOf(split)) {
        if (node && holdsId(branch.nodes, node)) continue
        ears.push({
          value: earText({ track: t.id, point: 'after', branch: branch.id }),
          text: `${t.name}, branch ${branch.name}`,
        })
      }
    return ears
  })
}
