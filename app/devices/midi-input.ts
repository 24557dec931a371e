import type { DeviceMessage } from './midi-message'
import { readMidi } from './midi-message'

/**
 * Opens every MIDI input there is, and those plugged in later.
 * @throws Error with a sentence for a person where the browser has no MIDI or does not allow it
 */
export async function openMidi(take: (m: DeviceMessage) => void): Promise<{ names: () => string[] }> {
  if (!('requestMIDIAccess' in navigator)) throw new Error('This browser has no MIDI. The simulated controller works the same way.')
  let access: MIDIAccess
  try {
    access = await navigator.requestMIDIAccess({ sysex: false })
  } catch {
    throw new Error('The browser was not allowed to use MIDI. Allow it beside the address, then try again; or use the simulated controller.')
  }
  const listen = (): void => {
    for (const input of access.inputs.values()) {
      input.onmidimessage = (e) => {
        const m = e.data && readMidi(e.data)
        if (m) take(m)
      }
    }
  }
  access.onstatechange = listen
  listen()
  return { names: () => [...access.inputs.values()].map((i) => i.name ?? 'MIDI input') }
}
