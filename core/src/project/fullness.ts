import { type LimitName, limits, sentenceOf } from '../limits'
import { branchesOf, innerLists } from './nodes/index'
import type { ChainNode, Project } from './schema'

/** An edit that would make more of something than a project can have. The message is a sentence. */
export class FullError extends Error {
  override name = 'FullError'
}

/**
 * What a project has more of than it can, as a sentence; undefined where there is nothing. Reading and
 * editing ask the same, so that nothing can be made here that could not be opened again.
 */
export function overLimit(project: Project): string | undefined {
  const wrong = (name: LimitName, count: number): string | undefined =>
    count > limits[name].most ? whole(sentenceOf(name, count)) : undefined
  let nodes = 0
  let found =
    wrong('tracks', project.tracks.length) ??
    wrong('links', project.links.length) ??
    wrong('sends', project.sends.length) ??
    wrong('sounds', Object.keys(project.audio).length)
  const look = (list: readonly ChainNode[], depth: number, track: string): void => {
    found ??= depth > limits.nesting.most ? sentenceOf('nesting', track) : wrong('nodes', list.length)
    if (found) return
    for (const node of list) {
      nodes++
      found ??= wrong('branches', branchesOf(node).length)
      for (const inner of innerLists(node)) look(inner, depth + 1, track)
    }
  }
  let modulators = 0
  for (const track of project.tracks) {
    modulators += track.modulators.length
    found ??= wrong('modulators', track.modulators.length) ?? wrong('notes', track.line?.notes.length ?? 0)
    look(track.a.nodes, 1, track.name)
    if (track.b) look(track.b.nodes, 1, track.name)
  }
  return found ?? wrong('allNodes', nodes) ?? wrong('allModulators', modulators)
}

const whole = (sentence: string): string =>
  `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)}${sentence.endsWith('.') ? '' : '.'}`
