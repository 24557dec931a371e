/** Ends something that has not moved for a while. */
export class StallWatch {
  private timer: ReturnType<typeof setTimeout> | undefined
  /** Whether it was ended here. */
  isStalled = false

  constructor(
    private readonly patienceMs: number,
    private readonly stop: () => void,
  ) {
    this.moved()
  }

  /** There was progress: restarts the wait. */
  moved(): void {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      this.isStalled = true
      this.stop()
    }, this.patienceMs)
  }

  /** Nothing is watched any more. */
  end(): void {
    clearTimeout(this.timer)
  }
}
