/** A message of a player or a controller, with values 0…1. MIDI 1.0 Detailed Specification, 1996. */
export type DeviceMessage =
  | { readonly kind: 'cc'; readonly channel: number; readonly number: number; readonly value: number }
  | { readonly kind: 'note'; readonly channel: number; readonly number: number; readonly value: number }
  | { readonly kind: 'bend'; readonly channel: number; readonly number: 0; readonly value: number }
  | { readonly kind: 'pressure'; readonly channel: number; readonly number: 0; readonly value: number }

/**
 * Reads one MIDI message; undefined for one that steers nothing here. A note's value is its velocity, 0 where
 * it ends.
 */
export function readMidi(bytes: Uint8Array): DeviceMessage | undefined {
  const [status = 0, first = 0, second = 0] = bytes
  const channel = status & 15
  if (status < 0x80 || (first | second) & 0x80) return undefined
  switch (status & 0xf0) {
    case 0x80:
      return { kind: 'note', channel, number: first, value: 0 }
    case 0x90:
      return { kind: 'note', channel, number: first, value: second / 127 }
    case 0xb0:
      return { kind: 'cc', channel, number: first, value: second / 127 }
    case 0xd0:
      return { kind: 'pressure', channel, number: 0, value: first / 127 }
    case 0xe0:
      return { kind: 'bend', channel, number: 0, value: bendValue(first | (second << 7)) }
    default:
      return undefined
  }
}

/** The bytes of a message, as a device sends them. */
export function writeMidi(m: DeviceMessage): Uint8Array {
  const seven = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * 127)
  switch (m.kind) {
    case 'note':
      return new Uint8Array([(m.value > 0 ? 0x90 : 0x80) | m.channel, m.number, seven(m.value)])
    case 'cc':
      return new Uint8Array([0xb0 | m.channel, m.number, seven(m.value)])
    case 'pressure':
      return new Uint8Array([0xd0 | m.channel, seven(m.value)])
    case 'bend': {
      const v =
        m.value <= 0.5 ? Math.round(m.value * 2 * 8192) : 8192 + Math.round((m.value - 0.5) * 2 * 8191)
      return new Uint8Array([0xe0 | m.channel, v & 127, v >> 7])
    }
  }
}

/** 8192 is the middle, exactly ½. */
const bendValue = (v: number): number => (v <= 8192 ? v / 16_384 : 0.5 + (v - 8192) / 16_382)

/**
 * Joins the two halves of 14-bit controls: numbers 0…31 carry the coarse part, those 32 above the fine one. A
 * coarse part alone counts at once; the fine one that follows refines it.
 */
export class FineControls {
  private readonly coarse = new Map<number, number>()

  /**
   * The whole value 0…1 of the control with the coarse number, or undefined where the message is no half of
   * one.
   */
  take(m: Extract<DeviceMessage, { kind: 'cc' }>): { number: number; value: number } | undefined {
    if (m.number > 63) return undefined
    const number = m.number & 31
    const key = m.channel * 32 + number
    const seven = Math.round(m.value * 127)
    if (m.number < 32) {
      this.coarse.set(key, seven)
      return { number, value: (seven << 7) / 16_383 }
    }
    const high = this.coarse.get(key)
    return high === undefined ? undefined : { number, value: ((high << 7) | seven) / 16_383 }
  }
}
