const COUNT_DELAY_MS = 2500

/** Dropout statistics of newer browsers. */
interface CountsDropouts {
  readonly playbackStats?: { readonly underrunEvents: number }
}

/** Counts how often the output had nothing to play while the song did. */
export class DropoutCount {
  private context: AudioContext | null = null
  private before: number | null = null

  /** Null where nothing is counted, and where the browser does not tell, or not yet. */
  get since(): number | null {
    const now = this.ranDry
    return now === null || this.before === null ? null : now - this.before
  }

  forget(): void {
    this.before = null
  }

  /** Counts from here on. The browser brings its own count up to date about once a second, and late. */
  begin(context: AudioContext | null): void {
    this.context = context
    setTimeout(() => {
      if (this.context === context) this.before = this.ranDry
    }, COUNT_DELAY_MS)
  }

  private get ranDry(): number | null {
    return (this.context as CountsDropouts | null)?.playbackStats?.underrunEvents ?? null
  }
}
