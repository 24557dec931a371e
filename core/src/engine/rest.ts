import type { Plan } from './plan'
import type { SoundStep, Step } from './step'

/** Sound below this (−120 dBFS) has rung out. */
const INAUDIBLE = 1e-6
/** Blocks of silence after which a change has settled, and after which all that rang has been measured. */
const SETTLING = 96
const RINGING = 1500

/**
 * Lets the engine rest: while the song stands, nothing sounds and nothing has been asked for, its steps are
 * not run, since all that they would do is work out silence.
 */
export class Rest {
  isOn = false
  /** Blocks of silence that are left until it may rest. */
  private left = SETTLING
  /** Whether anything has sounded since all was silent, so that something may still ring. */
  private mayRing = false

  /** Something has changed: the steps run until it has settled, or, where it sounds, has rung out. */
  wake(sounds = false): void {
    this.isOn = false
    this.mayRing ||= sounds
    this.left = Math.max(this.left, sounds ? RINGING : SETTLING)
  }

  /** After a block that was worked out. @param busy whether anything asks for the next one */
  look(plan: Plan, busy: boolean): void {
    if (busy) {
      this.wake(true)
      return
    }
    if (this.left > 0) this.left--
    else if (this.mayRing && !isSilent(plan.order)) this.left = SETTLING
    else {
      this.isOn = true
      this.mayRing = false
    }
  }
}

/** Also what is not heard now must have rung out: it would be heard later. */
function isSilent(steps: readonly Step[]): boolean {
  for (let k = 0; k < steps.length; k++) {
    const { peak, rings } = steps[k] as Partial<SoundStep>
    if (rings === true || (peak !== undefined && peak > INAUDIBLE)) return false
  }
  return true
}
