/**
 * Soft pick-up: a control that stands elsewhere than its parameter does nothing until it has come to it or
 * past it, so that nothing jumps. When the parameter is moved by somebody else, the control must come to it
 * again.
 */
export class PickUp {
  private last = NaN
  private sent = NaN

  /**
   * @param control where the control stands now, 0…1
   * @param place where the parameter stands, 0…1
   * @returns where the parameter shall go, or null while the control waits
   */
  take(control: number, place: number): number | null {
    const before = this.last
    this.last = control
    const holding = Math.abs(place - this.sent) < 0.004
    const passed =
      Math.abs(control - place) < 0.012 ||
      (!Number.isNaN(before) && (before - place) * (control - place) <= 0)
    if (!holding && !passed) {
      this.sent = NaN
      return null
    }
    this.sent = control
    return control
  }
}
