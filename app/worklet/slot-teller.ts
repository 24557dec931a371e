import type { Engine } from '@oleaje/core/engine/engine'
import type { FromWorklet } from '../contract/messages'
import { TripWatch } from './trip-watch'

/** Tells the page where live values stand, and which guards have tripped. */
export class SlotTeller {
  private readonly trips = new TripWatch()
  private readonly tripped = (key: string): void => {
    this.send({ type: 'tripped', key })
  }
  private told = 0
  private reports = 0
  private generation = 0
  private feedback = ''

  constructor(private readonly send: (message: FromWorklet) => void) {}

  /** Looks at the counters of all guards. */
  lookAtGuards(values: Float32Array): void {
    this.trips.look(values, this.tripped)
  }

  /** Says where new live values stand, when there are any. */
  look(engine: Engine): void {
    if (engine.reports === this.reports) return
    this.reports = engine.reports
    const { feedbackEdges: feedback, slots } = engine
    if (slots.generation !== this.generation) this.told = 0
    if (slots.size === this.told && feedback.join() === this.feedback) return
    const entries = slots.since(this.told)
    this.trips.follow(entries, this.told === 0)
    this.send({ type: 'slots', entries, anew: this.told === 0, feedback })
    this.told = slots.size
    this.generation = slots.generation
    this.feedback = feedback.join()
  }
}
