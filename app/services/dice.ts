import type { Project } from '@oleaje/core/project/schema'
import {
  type DiceKind,
  type DiceScope,
  type DiceState,
  diceKinds,
  diceState,
  restoreDice,
  toggleLock,
} from '@oleaje/core/variation/dice'
import { carryOut } from '@oleaje/core/variation/levelled-throw'
import { ownerName } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { splitGaugeKey } from '@oleaje/core/project/param-path'
import { shallowRef } from 'vue'
import { preference } from '../stores/preference'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

/** Throws that can be walked back and forth. */
const MOST_THROWS = 20
/** Seconds of sound that are measured. */
const MEASURED_SECONDS = 3

/** The states of one scope, from before the first throw on, and the one that is there. */
interface Throws {
  readonly scope: DiceScope
  readonly states: readonly DiceState[]
  readonly at: number
}

const sameScope = (a: DiceScope, b: DiceScope): boolean => a.kind === b.kind && a.id === b.id

/** Dice for values: thrown as loud as before, walked back and forth, locked. */
export class Dice {
  readonly amount = preference('dice-amount', 0.3)
  readonly kinds = preference<DiceKind[]>(
    'dice-kinds',
    ['levels', 'times', 'tone', 'modulators'],
    (kept) => Array.isArray(kept) && kept.every((k) => diceKinds.includes(k)),
  )
  readonly throws = shallowRef<Throws | null>(null)
  readonly busy = shallowRef(false)
  /** Result of the last throw, in words. */
  readonly said = shallowRef('')

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices'>,
    private readonly worker: HeavyWorker,
    private readonly sounds: Sounds,
  ) {}

  /** Throws once, as one step of the history. */
  async throw(scope: DiceScope): Promise<void> {
    const { project } = this.doc
    if (!project || this.busy.value) return
    if (this.kinds.value.length === 0) {
      this.said.value = 'Nothing may change. Turn on at least one kind.'
      return
    }
    this.busy.value = true
    try {
      const copy = JSON.parse(JSON.stringify(project)) as Project
      const first = {
        scope: { ...scope },
        amount: this.amount.value,
        kinds: [...this.kinds.value],
        seed: Math.floor(Math.random() * 0xffffffff),
      }
      const found = await this.worker.call.levelledThrow(
        copy,
        this.sounds.ofProject(),
        first,
        MEASURED_SECONDS,
      )
      if (this.doc.project !== project) this.said.value = 'The project changed meanwhile. Throw again.'
      else if (!found) this.said.value = 'No throw was found that is as loud as before. Try a smaller amount.'
      else {
        const known = this.throws.value
        const before =
          known && sameScope(known.scope, scope)
            ? known.states.slice(0, known.at + 1)
            : [diceState(project, scope)]
        this.doc.edit('Throw dice', carryOut(found))
        const after = this.doc.project
        if (!after || after === project) {
          this.said.value = 'Nothing changed. More may have to be unlocked, or the amount be larger.'
          return
        }
        const states = [...before, diceState(after, scope)].slice(-MOST_THROWS - 1)
        this.throws.value = { scope, states, at: states.length - 1 }
        this.said.value = ''
      }
    } catch (error) {
      this.said.value = `The dice were not thrown: ${sentence(error)}`
    } finally {
      this.busy.value = false
    }
  }

  /** Goes to an older or newer throw. */
  walk(by: -1 | 1): void {
    const known = this.throws.value
    const state = known?.states[known.at + by]
    if (!known || !state) return
    this.doc.edit(by < 0 ? 'Older throw' : 'Newer throw', restoreDice(known.scope, state))
    this.throws.value = { ...known, at: known.at + by }
  }

  /** Locks something for the dice, or unlocks it. */
  toggle(key: string): void {
    const { project } = this.doc
    if (!project) return
    const isLocked = project.locks?.includes(key) ?? false
    this.doc.edit(isLocked ? 'Unlock for dice' : 'Lock against dice', toggleLock(key))
    const [id, path] = splitGaugeKey(key.includes('.') ? key : `${key}.`)
    const owner = findOwner(project, id)
    this.stores.notices.spoken = `${owner ? ownerName(owner) : 'It'}${path ? ` ${path}` : ''} is ${isLocked ? 'unlocked' : 'locked'}.`
  }

  /** Another project is open. */
  forget(): void {
    this.throws.value = null
    this.said.value = ''
  }
}
