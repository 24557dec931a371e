/** Pulses of a quarter note (MIDI 1.0 Detailed Specification, 1996: timing clock). */
const PULSES = 24
/** Difference in bpm from which on the tempo is set again. */
const SLACK = 0.15

/** Finds the tempo of a clock by the time that its last quarter note took, and says when it is another. */
export class MidiClock {
  private readonly times: number[] = []
  private tempo = 0

  /** @param onTempo told the tempo in bpm, to a tenth */
  constructor(private readonly onTempo: (bpm: number) => void) {}

  /** A pulse at a time in ms. */
  pulse(now: number): void {
    const last = this.times[this.times.length - 1]
    // after a pause the count restarts
    if (last !== undefined && now - last > 500) this.times.length = 0
    this.times.push(now)
    if (this.times.length <= 2 * PULSES) return
    this.times.shift()
    const span = (this.times[this.times.length - 1] ?? 0) - (this.times[0] ?? 0)
    const bpm = Math.round(((60_000 * (this.times.length - 1)) / PULSES / span) * 10) / 10
    if (Math.abs(bpm - this.tempo) < SLACK || bpm < 20 || bpm > 300) return
    this.tempo = bpm
    this.onTempo(bpm)
  }

  reset(): void {
    this.times.length = 0
    this.tempo = 0
  }
}
