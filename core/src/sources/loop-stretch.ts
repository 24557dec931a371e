import { FRACTION } from '../dsp/fraction'
import { cosCycles, exp2 } from '../dsp/math'
import type { LoopRegion } from '../dsp/loop-region'
import { PhaseVocoder } from '../dsp/phase-vocoder'
import { BLOCK, type SongBlock, type StereoBlock } from '../contract/block'

/**
 * Frames of a spectrum, which is how far it reads ahead: reading slower moves tones together, and these are
 * told apart still.
 */
const AHEAD = 4096
const PAST = (3 / 4) * AHEAD
/**
 * How long before a hit its own sound begins, which hides the early smear of the pitch engine;
 * over what time it takes over, how long it stays after the hit, and over what time it gives way again, in
 * seconds.
 */
const BEFORE = 0.025
const COMES = 0.006
const STAYS = 0.05
const LEAVES = 0.015

/** The own sound of a hit, over the engine's. */
class Struck {
  /** Frames since it began; negative for none. */
  since = -1
  /** Where it began in frames after the start. */
  origin = FRACTION
  /** Frames after which it gives way. */
  stays = FRACTION
}

/**
 * Plays part of a sound at the song's tempo at its own pitch, or at one of its own: read faster or slower by
 * the song's place and brought back in pitch by the fine pitch engine, whose latency is made up by reading
 * ahead, round the song's loop where it will jump. Hits are heard as they were recorded, each at its own
 * time: for some hundredths of a second they take the engine's place.
 */
export class LoopStretch {
  private readonly shifted = { left: new Float64Array(BLOCK), right: new Float64Array(BLOCK) }
  private readonly vocoder = new PhaseVocoder(this.shifted, AHEAD)
  private readonly inL = new Float64Array(BLOCK)
  private readonly inR = new Float64Array(BLOCK)
  private readonly pastL = new Float64Array(PAST)
  private readonly pastR = new Float64Array(PAST)
  private readonly pair = new Float64Array(2)
  /** Place of the song that is expected next, in frames; −1 where it must be prepared. */
  private due = -1
  /** The newest hit, and the one before it as it gives way. */
  private newest = new Struck()
  private former = new Struck()
  /** Where the newest hit is, in frames after the start. */
  private struck = FRACTION

  constructor(private readonly sampleRate: number) {
    this.reset()
  }

  reset(): void {
    this.vocoder.reset()
    this.due = this.newest.since = this.former.since = -1
    this.struck = -1e9
  }

  /** Forgets its place, so that it starts again at the song's place. */
  leave(): void {
    this.due = -1
  }

  /**
   * @param speed frames of the sound that pass in one of the song
   * @param semitones of transposition
   * @param hits frames of the sound at which it is struck, in order
   * @param shift frames of the song before its beginning
   */
  process(
    out: StereoBlock,
    song: SongBlock,
    region: LoopRegion,
    speed: number,
    semitones: number,
    hits: readonly number[] | null,
    shift = 0,
  ): void {
    const { shifted, sampleRate } = this
    const ratio = exp2(semitones / 12) / speed
    const first = song.frames[0]
    if (first !== this.due) {
      this.newest.since = this.former.since = -1
      this.struck = -1e9
      // what comes before is heard as if it had played on up to here
      const { pastL, pastR, pair } = this
      for (let i = 0; i < PAST; i++) {
        region.read((first - PAST + i - shift) * speed, pair, speed)
        pastL[i] = pair[0]
        pastR[i] = pair[1]
      }
      this.vocoder.begin(pastL, pastR)
      for (let ahead = 0; ahead < AHEAD; ahead += BLOCK)
        this.feed(region, first + ahead, song, speed, ratio, shift)
    }
    for (let i = 0; i < BLOCK; i++)
      this.read(region, i, (this.ahead(song, song.frames[i] + AHEAD, song.frames[i]) - shift) * speed, speed)
    this.vocoder.process(this.inL, this.inR, ratio, -1)
    const last = song.frames[BLOCK - 1] + 1
    this.due = last === song.loopEnd ? song.loopStart : last
    const { left, right } = shifted
    if (hits && hits.length > 0)
      this.strike(song, region, speed, exp2(semitones / 12), hits, sampleRate, shift)
    for (let i = 0; i < BLOCK; i++) {
      // what a spectrum smears to before the beginning is not heard
      const begun = shift === 0 || song.frames[i] >= shift
      out.left[i] = begun ? left[i] : 0
      out.right[i] = begun ? right[i] : 0
    }
  }

  /** Place of the song so much later, round its loop. */
  private ahead(song: SongBlock, frame: number, now: number): number {
    if (now >= song.loopEnd || frame < song.loopEnd) return frame
    const length = song.loopEnd - song.loopStart
    return song.loopStart + ((frame - song.loopEnd) % length)
  }

  private feed(
    region: LoopRegion,
    from: number,
    song: SongBlock,
    speed: number,
    ratio: number,
    shift: number,
  ): void {
    for (let i = 0; i < BLOCK; i++)
      this.read(
        region,
        i,
        (this.ahead(song, from + i, Math.min(from + i, song.loopEnd - 1)) - shift) * speed,
        speed,
      )
    this.vocoder.process(this.inL, this.inR, ratio, -1)
  }

  private read(region: LoopRegion, i: number, passed: number, speed: number): void {
    region.read(passed, this.pair, speed)
    this.inL[i] = this.pair[0]
    this.inR[i] = this.pair[1]
  }

  /** Lays the hits' own sound over the block. */
  private strike(
    song: SongBlock,
    region: LoopRegion,
    speed: number,
    tuned: number,
    hits: readonly number[],
    sampleRate: number,
    shift: number,
  ): void {
    const before = BEFORE * sampleRate
    const comes = COMES * sampleRate
    for (let i = 0; i < BLOCK; i++) {
      const passed = (song.frames[i] - shift) * speed
      const way = passed < 0 && shift > 0 ? Infinity : this.wayTo(region, hits, passed, speed)
      const hitAt = passed + way * speed
      // each hit begins once; a jump of the song may bring the same one again
      if (way <= before && Math.abs(hitAt - this.struck) > 2 * speed) {
        this.struck = hitAt
        const { newest } = this
        this.newest = this.former
        this.former = newest
        if (newest.stays > newest.since) newest.stays = newest.since
        // where it is too near to come softly, it is there at once
        const late = way < comes ? comes : 0
        this.newest.since = late
        this.newest.origin = hitAt - (way + late) * tuned
        const free = this.wayTo(region, hits, hitAt + speed, speed) - before
        this.newest.stays =
          late + way + (free < (STAYS + 2 * LEAVES) * sampleRate ? Infinity : STAYS * sampleRate)
      }
      this.lay(this.former, region, tuned, i)
      this.lay(this.newest, region, tuned, i)
    }
  }

  /** Frames of output until the next hit; infinite for none within a round. */
  private wayTo(region: LoopRegion, hits: readonly number[], passed: number, speed: number): number {
    const place = region.placeOf(passed)
    const next = nextHit(hits, place)
    const end = region.from + region.length
    if (next >= 0 && next < end) return (next - place) / speed
    const first = nextHit(hits, region.from)
    return first >= 0 && first < end ? (end - place + first - region.from) / speed : Infinity
  }

  private lay(hit: Struck, region: LoopRegion, tuned: number, i: number): void {
    const { since, stays } = hit
    if (since < 0) return
    const comes = COMES * this.sampleRate
    const leaves = LEAVES * this.sampleRate
    const own = Math.min(since / comes, 1 - (since - stays) / leaves)
    if (own <= 0 && since > 0) {
      hit.since = -1
      return
    }
    const {
      shifted: { left, right },
      pair,
    } = this
    region.read(hit.origin + since * tuned, pair, tuned)
    const w = own >= 1 ? 1 : 0.5 - 0.5 * cosCycles(0.5 * own)
    left[i] += (pair[0] - left[i]) * w
    right[i] += (pair[1] - right[i]) * w
    hit.since = since + 1
  }
}

/** The first hit at a place or after it; −1 for none. */
function nextHit(hits: readonly number[], place: number): number {
  let low = 0
  let high = hits.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (hits[middle] < place) low = middle + 1
    else high = middle
  }
  return low < hits.length ? hits[low] : -1
}
