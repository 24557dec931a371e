/** A device, real or simulated, that can be heard. */
export interface InputDevice {
  readonly id: string
  readonly name: string
}
