import { addModulator } from '@oleaje/core/project/motion-edits'
import type { Edit } from '@oleaje/core/project/edit'
import { apply, together } from '@oleaje/core/project/edit'
import { placeSnapshots } from '@oleaje/core/project/morph'
import { takeSnapshot } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import {
  newBranch,
  newEffect,
  newGroup,
  newLoopBack,
  newProject,
  newSource,
  newSplit,
  newTrack,
} from '@oleaje/core/project/new'
import { type Preset, presetOfTrack } from '@oleaje/core/project/preset'
import type { ChainNode, Effect, Group, LoopBack, Split } from '@oleaje/core/project/schema'
import { linkValue } from '../assemble'
import { presetEffect } from '../preset-effect'
import type { Material, Phrase } from '@oleaje/core/render/phrase'
import type { Point } from './points'

export type Tag = 'colour' | 'dirt' | 'time' | 'movement' | 'rhythm' | 'space' | 'voice'

/** What a chain of the library says of itself. */
export interface ChainFacts {
  readonly tags: readonly Tag[]
  /** Material that it suits; the first one is measured. */
  readonly for: readonly Material[]
  /** The phrase that it is measured on, where that is not the one of its material. */
  readonly on?: Phrase
  /** Other names for the job that it does, to be found by. */
  readonly job?: string
  /** What it is for, as a figure. */
  readonly point: Point
  /** Why it is louder or softer than the dry sound by more than 2 LU. */
  readonly loudness?: string
}

export interface LibraryChain extends ChainFacts {
  readonly preset: Preset
}

/** A parameter, and its values where a modulator is at its lowest and at its highest. */
type Moved = readonly [of: { readonly id: string } | string, path: string, low: number, high: number]
type Params = Record<string, number>

/** The track that a chain of the library is made on. */
const HOME = 'home'

/** Makes one chain: effects in order, then what moves them. Ids follow from its name. */
export class ChainMaker {
  private readonly nodes: ChainNode[] = []
  private readonly edits: Edit[] = []
  private count = 0

  constructor(private readonly name: string) {}

  private id(): string {
    return `${this.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .slice(0, 7)}-${++this.count}`
  }

  /** An effect, to be put into a container; with a name, as a preset of the effect sets it up. */
  fx(type: string, params: Params = {}, preset?: string): Effect {
    return preset ? presetEffect(type, preset, this.id(), params) : newEffect(type, params, this.id())
  }

  /** An effect at the end of the chain. */
  add(type: string, params: Params = {}, preset?: string): Effect {
    return this.put(this.fx(type, params, preset))
  }

  put<N extends ChainNode>(node: N): N {
    this.nodes.push(node)
    return node
  }

  /** A split at the end of the chain: branches by name, with their levels in dB. */
  split(
    mode: Split['mode'],
    branches: Record<string, readonly ChainNode[]>,
    levels: readonly number[] = [],
    params: Params = {},
  ): Split {
    const made = newSplit(
      Object.entries(branches).map(([name, nodes], i) => ({
        ...newBranch(name, levels[i] ?? (mode === 'copies' ? -3 : 0), this.id()),
        nodes: [...nodes],
      })),
      this.id(),
    )
    return this.put({ ...made, mode, params: { ...made.params, ...params } })
  }

  loop(params: Params, nodes: readonly ChainNode[]): LoopBack {
    const made = newLoopBack([...nodes], this.id())
    return this.put({ ...made, params: { ...made.params, ...params } })
  }

  group(name: string, nodes: readonly ChainNode[], params: Params = {}): Group {
    const made = newGroup(name, [...nodes], this.id())
    return this.put({ ...made, params: { ...made.params, ...params } })
  }

  /** A modulator and what it moves, around where each base is set. */
  mod(type: string, name: string, params: Params, ...moved: readonly Moved[]): { readonly id: string } {
    const id = this.id()
    this.edits.push(addModulator(HOME, type, { id, name, params }))
    for (const [of, path, low, high] of moved)
      this.edits.push(linkValue(id, typeof of === 'string' ? of : of.id, path, low, high))
    return { id }
  }

  lfo(name: string, params: Params, ...moved: readonly Moved[]): { readonly id: string } {
    return this.mod('lfo', name, params, ...moved)
  }

  /** One control that sets everything it moves. */
  macro(name: string, value: number, ...moved: readonly Moved[]): { readonly id: string } {
    const id = this.id()
    this.edits.push(addModulator(HOME, 'macro', { id, name, params: { value } }))
    for (const [of, path, low, high] of moved)
      this.edits.push(linkValue(id, typeof of === 'string' ? of : of.id, path, low, high, 'fixed'))
    return { id }
  }

  /**
   * States of the chain on a plane: the values of each, and where it lies. The chain is left in the state it
   * is made in.
   */
  morph(
    name: string,
    states: readonly {
      readonly at: readonly [x: number, y: number]
      readonly set: readonly (readonly [of: { readonly id: string }, path: string, value: number])[]
    }[],
    params: Params = {},
  ): { readonly id: string } {
    const id = this.id()
    this.edits.push(addModulator(HOME, 'morph', { id, name, params }))
    states.forEach(({ set }, i) => {
      this.edits.push(
        together(...set.map(([of, path, value]) => setParam(of.id, path, value))),
        takeSnapshot(HOME, i + 1),
      )
    })
    this.edits.push(
      placeSnapshots(
        id,
        states.map(({ at: [x, y] }, i) => ({ snapshot: String(i + 1), x, y })),
      ),
    )
    return { id }
  }

  /** Any other edit of the project that the chain is made in. */
  edit(edit: Edit): void {
    this.edits.push(edit)
  }

  made(about: string, facts: ChainFacts): Preset {
    const project = newProject('Library')
    const track = newTrack(this.name, newSource('tone', {}, null, 'home-source'), HOME)
    track.a.nodes = this.nodes
    project.tracks.unshift(track)
    const whole = this.edits.reduce((p, edit) => apply(p, edit).next, project)
    const preset = presetOfTrack(whole, HOME, this.name)
    if (!preset) throw new Error(`The chain “${this.name}” is empty.`)
    return { ...preset, about, tags: [...facts.tags], materials: [...facts.for], origin: '', home: null }
  }
}

/** A chain of the library by its name, a line about it, its facts, and how it is made. */
export function chain(
  name: string,
  about: string,
  facts: ChainFacts,
  make: (c: ChainMaker) => void,
): LibraryChain {
  const maker = new ChainMaker(name)
  make(maker)
  return { ...facts, preset: maker.made(about, facts) }
}
