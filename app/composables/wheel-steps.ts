/** Travel of a wheel that is one step, in px: a notch of most mice, and so much of a finger on a pad. */
const STEP_PX = 100
/** Heights of lines and pages, where a wheel counts in those. */
const UNIT_PX = [1, 34, 400] as const

/** A movement of a wheel in steps, of which a finger on a pad makes small parts. */
export const inSteps = (delta: number, deltaMode: number): number =>
  (delta * (UNIT_PX[deltaMode as 0] ?? 1)) / STEP_PX

/** Adds up the small movements of a wheel to whole steps. Upwards is more; movements aside are none. */
export class WheelSteps {
  private rest = 0

  /** Whole steps that have come together with this movement. */
  take({ deltaY, deltaX, deltaMode }: Pick<WheelEvent, 'deltaX' | 'deltaY' | 'deltaMode'>): number {
    if (Math.abs(deltaX) > Math.abs(deltaY)) return 0
    const moved = -inSteps(deltaY, deltaMode)
    // a change of direction restarts the count
    if (moved * this.rest < 0) this.rest = 0
    this.rest += moved
    const steps = Math.trunc(this.rest) + 0
    this.rest -= steps
    return steps
  }
}

/** A wheel over a control: it scrolls the page unless the control has the focus or Alt is held. */
export function useWheel(step: (by: number) => void): (e: WheelEvent) => void {
  const steps = new WheelSteps()
  return (e) => {
    const el = e.currentTarget as HTMLElement
    if (e.ctrlKey || !(e.altKey || el.contains(document.activeElement))) return
    e.preventDefault()
    const by = steps.take(e)
    for (let k = 0; k < Math.abs(by); k++) step(Math.sign(by))
  }
}
