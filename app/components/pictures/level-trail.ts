/** Levels of the last seconds with their times, for pictures of what has gone through an effect. */
export class LevelTrail {
  private readonly levels: Float32Array
  private readonly times: Float64Array
  private head = 0
  private latest = 0

  constructor(
    readonly seconds: number,
    frames = 40 * seconds,
  ) {
    this.levels = new Float32Array(frames)
    this.times = new Float64Array(frames).fill(-1e9)
  }

  /** @param now in milliseconds */
  push(now: number, level: number): void {
    this.head = (this.head + 1) % this.levels.length
    this.levels[this.head] = Math.min(1, level)
    this.times[this.head] = this.latest = now
  }

  /**
   * Adds a closed outline, from the oldest to the newest and back along the middle, to the path of a canvas.
   */
  outline(x: (age: number) => number, y: (level: number) => number, g: CanvasRenderingContext2D): void {
    let first = true
    for (let i = 1; i <= this.levels.length; i++) {
      const k = (this.head + i) % this.levels.length
      const age = (this.latest - (this.times[k] ?? 0)) / 1000
      if (age > this.seconds) continue
      if (first) g.moveTo(x(age), y(0))
      first = false
      g.lineTo(x(age), y(Math.max(0.004, this.levels[k] ?? 0)))
    }
    g.lineTo(x(0), y(0))
  }
}
