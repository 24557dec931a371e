import { SNAPSHOTS } from '@oleaje/core/project/snapshots'
import { setTempo } from '@oleaje/core/project/song-edits'
import type { EngineHost } from '../audio/host'
import { MidiClock } from '../devices/midi-clock'
import { openMidi } from '../devices/midi-input'
import type { useDocument } from '../stores/document'
import type { Stores } from '../stores/index'
import type { DeviceRouter } from './device-router'
import type { Snapshots } from './snapshots'
import type { TransportService } from './transport'

/** Real MIDI inputs, beside the simulated controller. */
export class MidiInputs {
  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'preferences'>,
    private readonly host: EngineHost,
    private readonly to: {
      readonly router: DeviceRouter
      readonly transport: TransportService
      readonly snapshots: Snapshots
    },
  ) {}

  /** Opens them; gives their names. */
  async open(): Promise<string[]> {
    const { doc, host } = this
    const { router, transport, snapshots } = this.to
    const { preferences } = this.stores
    const clock = new MidiClock((bpm) => {
      if (preferences.followsClock) doc.edit('Follow MIDI clock', setTempo(bpm), true)
    })
    const followed = (what: () => unknown): void => {
      if (preferences.followsClock) void what()
    }
    const { names } = await openMidi((m, at) => router.take(m, at), {
      clock: (now) => {
        if (preferences.followsClock) clock.pulse(now)
      },
      start: () => followed(() => transport.play(doc.project?.loop.on ? doc.project.loop.start : 0)),
      goOn: () => followed(() => transport.play(host.telemetry.fixed('beat'))),
      stop: () => followed(() => transport.stop()),
      program: (number) => {
        if (number < SNAPSHOTS) snapshots.recall(number + 1)
      },
      gone: (name) => {
        doc.trouble = `${name} was disconnected and its notes were released. Reconnect it to continue.`
      },
    })
    return names()
  }
}
