import { setSource } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import type { EngineHost } from '../audio/host'
import type { useBench } from '../stores/bench'
import type { useDocument } from '../stores/document'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

export type InputDevice = 'simulated' | 'microphone'

/** The live input: one device at a time, a real one or the simulated line. */
export class LiveInput {
  private stream: MediaStream | null = null

  constructor(private readonly doc: ReturnType<typeof useDocument>, private readonly bench: ReturnType<typeof useBench>, private readonly host: EngineHost, private readonly sounds: Sounds) {}

  /** The device that a track with a live input hears. */
  static deviceOf(track: Track): InputDevice { return track.source?.device === 'microphone' ? 'microphone' : 'simulated' }

  /** Opens the input of a track, or closes it. */
  async toggle(track: Track): Promise<void> {
    const { bench } = this
    await this.attempt(bench.openInput === track.id ? null : LiveInput.deviceOf(track), bench.openInput === track.id ? null : track.id)
  }

  /** Another device for a track; where the input is open, it goes on with that one. */
  async swap(track: Track): Promise<void> {
    if (!track.source) return
    const device = LiveInput.deviceOf(track) === 'microphone' ? 'simulated' : 'microphone'
    this.doc.edit('Change input', setSource(track.id, { ...track.source, device }))
    if (this.bench.openInput === track.id) await this.attempt(device, track.id)
  }

  private async attempt(device: InputDevice | null, track: string | null): Promise<void> {
    try {
      await this.open(device)
      this.bench.openInput = track
    } catch (error) {
      this.bench.openInput = null
      this.doc.trouble = sentence(error)
    }
  }

  /** Opens a device in place of the one before; null closes it. @throws Error with a sentence and a way on */
  private async open(device: InputDevice | null): Promise<void> {
    this.stream?.getTracks().forEach((t) => t.stop())
    this.stream = null
    const { project } = this.doc
    if (!project) return
    await this.host.start(project)
    if (device === null) return this.host.connectInput(null)
    if (device === 'simulated') {
      const line = (await this.sounds.shipped()).find((s) => s.file === 'line-in')
      if (line) await this.host.connectInput(await this.sounds.takeShipped(line.hash))
      return
    }
    await this.host.connectInput(await this.microphone())
  }

  private async microphone(): Promise<MediaStream> {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } })
      stream.getAudioTracks()[0]?.addEventListener('ended', () => {
        this.doc.trouble = 'The input was unplugged. Plug it in again and open it anew; everything else plays on.'
        this.bench.openInput = null
        void this.host.connectInput(null)
      })
      return this.stream = stream
    } catch (error) {
      const denied = error instanceof DOMException && error.name === 'NotAllowedError'
      throw new Error(denied ? 'The browser was not allowed to use the microphone. Allow it beside the address, then try again; or use the simulated line.' : 'No input was found. Plug one in and try again; or use the simulated line.')
    }
  }
}
