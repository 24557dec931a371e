/**
 * Keeps the loudness of the ways in which one track can be heard (A, B, dry), so that they can be compared at
 * the same loudness. What was heard last as processed is the reference: it keeps its level, the others are
 * brought to it.
 */
export class LevelMatch {
  private track = ''
  private readonly loudness: Partial<Record<'a' | 'b' | 'dry', number>> = {}
  private settledAt = 0

  /** Sets what is heard now; measuring restarts shortly after a change. */
  turnTo(track: string, now: number): void {
    if (track !== this.track) {
      this.track = track
      delete this.loudness.a
      delete this.loudness.b
      delete this.loudness.dry
    }
    this.settledAt = now + 3200
  }

  /** Takes short-term loudness in LUFS of what is heard and of the dry sound, before any matching. */
  note(heard: 'a' | 'b', wet: number, dry: number, now: number): void {
    if (dry > -70) this.loudness.dry = dry
    if (now >= this.settledAt && wet > -70) this.loudness[heard] = wet
  }

  /** Takes the loudness of all three in LUFS, measured over one stretch. */
  take(loudness: Readonly<Record<'a' | 'b' | 'dry', number>>): void {
    for (const which of ['a', 'b', 'dry'] as const)
      if (loudness[which] > -70) this.loudness[which] = loudness[which]
      else delete this.loudness[which]
  }

  /** Gain in dB that brings what is heard to the loudness of A. 0 where one of them is not known yet. */
  gainDb(heard: 'a' | 'b', dry: boolean): number {
    const reference = this.loudness.a ?? this.loudness[heard]
    const own = dry ? this.loudness.dry : this.loudness[heard]
    if (reference === undefined || own === undefined) return 0
    return Math.max(-24, Math.min(24, reference - own))
  }
}
