import type { Engine } from '@oleaje/core/engine/engine'
import type { RecordedPart } from '../contract/messages'
import { type Part, Recorder } from './recorder'

/** Records what goes into the chain of a track and what comes out, once the song plays. */
export class TapRecording {
  readonly recorder: Recorder
  private beat = NaN
  private latency = 0
  private heard = 0

  constructor(
    private readonly track: string,
    parts: Part[],
    give: (part: RecordedPart) => void,
  ) {
    this.recorder = new Recorder(parts, (part, frames, from) => {
      give({ part, frames, from, beat: this.beat, latency: this.latency, heard: this.heard })
    })
  }

  write(engine: Engine): void {
    const tap = engine.transport.playing ? engine.tap(this.track) : null
    if (!tap) return
    if (Number.isNaN(this.beat)) this.beat = engine.transport.song.beats[0] ?? 0
    this.latency = tap.latency
    this.heard = tap.heard
    this.recorder.write(tap.dry, tap.wet)
  }
}
