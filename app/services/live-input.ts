import { setSource } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import type { EngineHost } from '../audio/host'
import type { InputDevice } from '../contract/input-device'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

const SIMULATED = 'simulated'
const CABLE = 'cable'
const USUAL = 'microphone'

/** The live input: one device at a time, a real one or a simulated one. Any number of tracks may hear it. */
export class LiveInput {
  /** The simulated performer, and a cable from the output. */
  static readonly simulated: readonly InputDevice[] = [
    { id: SIMULATED, name: 'simulated player' },
    { id: CABLE, name: 'simulated loopback from the output' },
    { id: USUAL, name: 'microphone' },
  ]
  private stream: MediaStream | null = null

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'devices' | 'preferences'>,
    private readonly host: EngineHost,
    private readonly sounds: Sounds,
  ) {}

  /** The device that a track with a live input hears. */
  static deviceOf(track: Track): string {
    return track.source?.device ?? SIMULATED
  }

  /** Opens the input of a track, or closes it. */
  async toggle(track: Track): Promise<void> {
    const { devices } = this.stores
    await this.attempt(
      devices.openInput === track.id ? null : LiveInput.deviceOf(track),
      devices.openInput === track.id ? null : track.id,
    )
  }

  /** Another device for a track; where the input is open, it goes on with that one. */
  async choose(track: Track, device: string): Promise<void> {
    if (!track.source) return
    this.doc.edit('Change input', setSource(track.id, { ...track.source, device }))
    if (this.stores.devices.openInput === track.id) await this.attempt(device, track.id)
  }

  /** Whether the input is heard while it is open. */
  setMonitored(on: boolean): void {
    this.stores.preferences.monitorsInput = on
    this.mute()
  }

  /** Measures the way from the output to the open input by a click. Says so where it does not come in. */
  async measure(track: Track): Promise<void> {
    const frames = await this.host.loopback()
    if (frames === null) {
      this.doc.trouble =
        'No click was received within a second. Connect the output to the input, or hold the microphone to the speaker, and raise both levels.'
      return
    }
    this.stores.preferences.roundTrips = {
      ...this.stores.preferences.roundTrips,
      [LiveInput.deviceOf(track)]: frames,
    }
  }

  private mute(): void {
    this.stores.devices.unheardInput =
      !this.stores.preferences.monitorsInput && this.stores.devices.openInput
        ? this.stores.devices.openInput
        : null
  }

  private async attempt(device: string | null, track: string | null): Promise<void> {
    try {
      await this.open(device)
      this.stores.devices.openInput = track
      this.mute()
      if (device !== null) await this.look()
    } catch (error) {
      this.stores.devices.openInput = null
      this.mute()
      this.doc.trouble = sentence(error)
    }
  }

  /** Finds out what devices there are; they have names once one was allowed. */
  private async look(): Promise<void> {
    if (!('mediaDevices' in navigator)) return
    const all = await navigator.mediaDevices.enumerateDevices().catch(() => [])
    this.stores.devices.inputDevices = all.flatMap((d) =>
      d.kind === 'audioinput' && d.label && d.deviceId !== 'default'
        ? [{ id: d.deviceId, name: d.label.slice(0, 60) }]
        : [],
    )
  }

  /** Opens a device in place of the one before; null closes it. @throws Error with a sentence and a way on */
  private async open(device: string | null): Promise<void> {
    this.stream?.getTracks().forEach((t) => t.stop())
    this.stream = null
    const { project } = this.doc
    if (!project) return
    await this.host.start(project)
    if (device === null) return this.host.connectInput(null)
    if (device === CABLE) return this.host.connectInput('cable')
    if (device === SIMULATED) {
      const line = (await this.sounds.shipped()).find((s) => s.file === 'line-in')
      if (line) await this.host.connectInput(await this.sounds.takeShipped(line.hash))
      return
    }
    await this.host.connectInput(await this.real(device))
  }

  private async real(device: string): Promise<MediaStream> {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({
        audio: {
          echoCancellation: false,
          noiseSuppression: false,
          autoGainControl: false,
          channelCount: { ideal: 2 },
          ...(device === USUAL ? {} : { deviceId: { exact: device } }),
        },
      })
      stream.getAudioTracks()[0]?.addEventListener('ended', () => {
        this.doc.trouble = 'The input was disconnected. Reconnect it, then turn it on again.'
        this.stores.devices.openInput = null
        this.mute()
        void this.host.connectInput(null)
      })
      return (this.stream = stream)
    } catch (error) {
      const denied = error instanceof DOMException && error.name === 'NotAllowedError'
      const said = denied
        ? 'The browser blocked the microphone. Allow it next to the address bar and try again, or use the simulated player.'
        : 'That input was not found. Connect it and try again, or use the simulated player.'
      throw new Error(said)
    }
  }
}
