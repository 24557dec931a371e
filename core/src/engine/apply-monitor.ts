import type { ChainNode, Project } from '../project/schema'
import { innerLists } from '../project/nodes/index'
import { heardChain } from '../project/walk'
import { soloWays, waysOf } from '../project/routing'
import { FaderStep } from './fader-step'
import { ModulatorStep } from './modulator-step'
import { engineOf } from './nodes/index'
import { type Plan, stepAt } from './plan'
import { SumStep } from './sum-step'

import type { Monitor } from './monitor'

/** Has a plan heard as the monitor says. */
export function applyMonitor(plan: Plan, project: Project, monitor: Monitor): void {
  const isOpen = soloWays(project, monitor.soloTracks)
  const ways = waysOf(project)
  for (const track of project.tracks) {
    const fader = stepAt(plan, `track:${track.id}`, FaderStep)
    if (fader) {
      // a node that is left out at each of its ends is silent itself
      const own = ways.filter((way) => way.from === track.id)
      fader.silenced =
        track.id === monitor.unheardTrack || (track.kind !== 'mix' && own.length > 0 && !own.some(isOpen))
      fader.hearDry = monitor.dryTrack === track.id
      fader.matchGain = monitor.match?.track === track.id ? monitor.match.gain : 1
    }
    const sum = stepAt(plan, track.kind === 'mix' ? 'sum' : `source:${track.id}`, SumStep)
    sum?.close(
      new Set(
        ways.flatMap((way) =>
          way.to !== track.id || isOpen(way) ? [] : [way.send ? `send:${way.send.id}` : `track:${way.from}`],
        ),
      ),
    )
    hearNodes(heardChain(track).nodes, plan, monitor, false)
  }
  for (const [key, step] of plan.steps) {
    if (!(step instanceof ModulatorStep)) continue
    const { alone } = monitor
    const held =
      alone !== null && !step.definition.byHand && key !== `mod:${alone}` && !key.startsWith(`mod:${alone}~`)
    if (held === step.held) continue
    step.held = held
    // a modulator that moves again continues from its last value
    for (const set of plan.params.values()) set.soften()
  }
}

/**
 * Tells every node of a list how it is heard. What comes after the last node that is heard is left out, in
 * its own branch and after the splits that hold it; other branches sound as ever, and so does what is inside
 * that node.
 * @returns whether everything after the list is left out
 */
function hearNodes(list: readonly ChainNode[], plan: Plan, monitor: Monitor, unheard: boolean): boolean {
  let left = unheard
  for (const node of list) {
    engineOf(node).monitor?.(node, plan, { monitor, unheard: left })
    let ended = left
    for (const inner of innerLists(node)) ended = hearNodes(inner, plan, monitor, left) || ended
    left = ended || node.id === monitor.upTo || node.id === monitor.part?.node
  }
  return left
}
