import type { DeviceMessage } from './midi-message'
import { readMidi } from './midi-message'

/** Messages of a device beside notes and controls. */
export interface DeviceSignals {
  readonly clock: (now: number) => void
  readonly start: () => void
  readonly goOn: () => void
  readonly stop: () => void
  /** A program change, from 0. */
  readonly program: (number: number) => void
  /** A device was taken away, by its name. */
  readonly gone: (name: string) => void
}

/**
 * One input. It remembers its held notes, so that they can be released when it is disconnected.
 */
export class MidiPort {
  /** Notes that are held, by channel and number. */
  private readonly held = new Map<string, { readonly channel: number; readonly number: number }>()

  constructor(
    private readonly take: (m: DeviceMessage, at?: number) => void,
    private readonly signals: DeviceSignals,
  ) {}

  hear(bytes: Uint8Array, now: number): void {
    const [status = 0, first = 0] = bytes
    if (status === 0xf8) return this.signals.clock(now)
    if (status === 0xfa) return this.signals.start()
    if (status === 0xfb) return this.signals.goOn()
    if (status === 0xfc) return this.signals.stop()
    if ((status & 0xf0) === 0xc0) return this.signals.program(first & 127)
    const m = readMidi(bytes)
    if (!m) return
    // all notes off, and all sound off
    if (m.kind === 'cc' && (m.number === 123 || m.number === 120)) return this.letGo()
    if (m.kind === 'note') {
      const key = `${m.channel}/${m.number}`
      if (m.value > 0) this.held.set(key, { channel: m.channel, number: m.number })
      else this.held.delete(key)
    }
    this.take(m, now)
  }

  /** Ends every note that is held. */
  letGo(): void {
    for (const { channel, number } of this.held.values())
      this.take({ kind: 'note', channel, number, value: 0 })
    this.held.clear()
  }
}

/**
 * Opens every MIDI input there is, and those plugged in later. A disconnected input releases its notes.
 * @throws Error with a sentence for a person where the browser has no MIDI or does not allow it
 */
export async function openMidi(
  take: (m: DeviceMessage, at?: number) => void,
  signals: DeviceSignals,
): Promise<{ names: () => string[] }> {
  if (!('requestMIDIAccess' in navigator))
    throw new Error('This browser has no MIDI. The simulated controller works the same way.')
  let access: MIDIAccess
  try {
    access = await navigator.requestMIDIAccess({ sysex: false })
  } catch {
    throw new Error(
      'The browser blocked MIDI. Allow it next to the address bar and try again, or use the simulated controller.',
    )
  }
  const ports = new Map<string, MidiPort>()
  const listen = (): void => {
    for (const input of access.inputs.values()) {
      const known = ports.get(input.id)
      if (input.state === 'disconnected') {
        if (!known) continue
        known.letGo()
        ports.delete(input.id)
        signals.gone(input.name ?? 'A MIDI input')
        continue
      }
      if (known) continue
      const port = new MidiPort(take, signals)
      ports.set(input.id, port)
      input.onmidimessage = (e) => {
        if (e.data) port.hear(e.data, e.timeStamp)
      }
    }
    // one that is not listed any more is gone as well
    for (const [id, port] of ports) {
      if (access.inputs.has(id)) continue
      port.letGo()
      ports.delete(id)
    }
  }
  access.onstatechange = listen
  listen()
  return { names: () => [...access.inputs.values()].map((i) => i.name ?? 'MIDI input') }
}
