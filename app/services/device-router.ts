import type { Gesture } from '@oleaje/core/project/history'
import { setControl } from '@oleaje/core/project/song-edits'
import { setNormalized } from '@oleaje/core/project/value-edits'
import { gaugeKey, pathOf, splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import { newId } from '@oleaje/core/project/new'
import type { Control } from '@oleaje/core/project/schema'
import { findTarget } from '@oleaje/core/project/targets'
import { toNormalized } from '@oleaje/core/units/scale'
import type { EngineHost } from '../audio/host'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { type DeviceMessage, FineControls } from '../devices/midi-message'
import { PickUp } from '../devices/pick-up'

/** After so long without a move, a ride of a control is one step of undo. */
const REST_MS = 400

/** A message as a control is learnt by it; keys of the computer come as these too. */
export type HeardControl =
  | DeviceMessage
  | {
      readonly kind: 'key'
      readonly channel: 0
      readonly number: 0
      readonly key: string
      readonly value: number
    }

/**
 * The one way in for everything that is turned, pressed and played, on a real device, on the simulated one,
 * or on the computer's keys: it learns controls, moves what they steer, and passes notes on to the tracks
 * that hear notes.
 */
export class DeviceRouter {
  /** The last message, for display. */
  onHeard: (m: HeardControl) => void = () => {}
  private readonly fine = new FineControls()
  private readonly pickUps = new Map<string, PickUp>()
  private rest: ReturnType<typeof setTimeout> | undefined
  /** The ride under way, and the gauge that it is of. */
  private ride: { readonly key: string; readonly gesture: Gesture } | null = null
  /**
   * Track that each note that sounds was begun on, by channel and number: its end goes there, whatever is
   * selected by then.
   */
  private readonly homes = new Map<string, string>()
  private learnt: Control | null = null
  private learntAt = 0
  private bend = 0.5
  private pressure = 0

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'devices' | 'selection'>,
    private readonly host: EngineHost,
  ) {}

  /** @param at when it was sent or pressed, by the page's clock in ms */
  take(m: HeardControl, at?: number): void {
    this.onHeard(m)
    const { doc } = this
    const { devices } = this.stores
    if (devices.controlFor && (m.kind !== 'note' || m.value > 0) && (m.kind !== 'key' || m.value > 0)) {
      this.learn(m, devices.controlFor)
      return
    }
    const whole = m.kind === 'cc' ? this.fine.take(m) : undefined
    this.refine(m)
    let steered = false
    for (const control of doc.project?.controls ?? []) {
      const { message } = control
      if (message.channel !== m.channel) continue
      if (message.kind === 'cc14' && whole && whole.number === message.number)
        this.steer(control, whole.value)
      else if (
        message.kind === m.kind &&
        message.number === m.number &&
        (m.kind !== 'key' || message.key === m.key)
      )
        this.steer(control, m.value > 0 && m.kind === 'key' ? 1 : m.value)
      else continue
      steered = true
    }
    if (!steered) this.play(m, at)
  }

  /** Notes, bend and pressure that steer nothing are played on the selected track. */
  private play(m: HeardControl, at?: number): void {
    const key = `${m.channel}/${m.number}`
    const track =
      (m.kind === 'note' && m.value === 0 && this.homes.get(key)) ||
      this.stores.devices.notesTo ||
      this.stores.selection.track?.id
    if (!track) return
    if (m.kind === 'note') {
      if (m.value > 0) this.begin(key, track, m.number, at)
      else this.homes.delete(key)
      this.host.note(track, m.number, m.value, at)
    } else if (m.kind === 'bend' || m.kind === 'pressure') {
      if (m.kind === 'bend') this.bend = m.value
      else this.pressure = m.value
      this.host.shapeNotes(track, this.bend, this.pressure)
    }
  }

  /** Remembers where a note begins. One that sounds on another track already ends there first. */
  private begin(key: string, track: string, pitch: number, at?: number): void {
    const before = this.homes.get(key)
    if (before && before !== track) this.host.note(before, pitch, 0, at)
    this.homes.set(key, track)
  }

  private learn(m: HeardControl, gauge: string): void {
    const [owner, path] = splitGaugeKey(gauge)
    const target = targetAt(owner, path)
    const found = this.doc.project && findTarget(this.doc.project, target)
    this.stores.devices.controlFor = null
    if (!found) return
    const message: Control['message'] =
      m.kind === 'key'
        ? { kind: 'key', channel: 0, number: 0, key: m.key }
        : { kind: m.kind, channel: m.channel, number: m.number }
    const control: Control = { id: newId(), message, target, pickUp: m.kind === 'cc' }
    this.learnt = m.kind === 'cc' ? control : null
    this.learntAt = performance.now()
    this.doc.edit(`Assign a control to ${found.spec.name.toLowerCase()}`, setControl(control))
  }

  /** The fine half that follows at once on a control just learnt says that it is one of 14 bits. */
  private refine(m: HeardControl): void {
    const { learnt } = this
    if (
      !learnt ||
      m.kind !== 'cc' ||
      m.channel !== learnt.message.channel ||
      performance.now() - this.learntAt > 150
    )
      return
    if (m.number !== learnt.message.number + 32 || m.number > 63) return
    this.learnt = null
    this.doc.edit(
      'Assign fine control',
      setControl({ ...learnt, message: { ...learnt.message, kind: 'cc14' } }),
    )
  }

  private steer(control: Control, value: number): void {
    const { doc } = this
    const found = doc.project && findTarget(doc.project, control.target)
    if (!found) return
    const key = gaugeKey(control.target.owner, pathOf(control.target))
    let place: number | null = value
    if (control.pickUp) {
      const pickUp = this.pickUps.get(control.id) ?? new PickUp()
      this.pickUps.set(control.id, pickUp)
      place = pickUp.take(value, toNormalized(found.spec, found.base))
    }
    if (place === null) return
    // one ride is one step of undo, and what is done with the mouse meanwhile is another
    if (this.ride?.key !== key || !this.ride.gesture.isOpen) {
      this.ride?.gesture.end()
      this.ride = { key, gesture: doc.gesture(`Ride ${found.spec.name.toLowerCase()}`) }
    }
    this.ride.gesture.edit(setNormalized(control.target.owner, pathOf(control.target), place))
    clearTimeout(this.rest)
    this.rest = setTimeout(() => {
      this.ride?.gesture.end()
      this.ride = null
    }, REST_MS)
  }
}

/** How a control is called for people. */
export function controlName(m: Control['message']): string {
  const channel = m.channel > 0 ? `, channel ${m.channel + 1}` : ''
  switch (m.kind) {
    case 'cc':
      return `control ${m.number}${channel}`
    case 'cc14':
      return `fine control ${m.number}${channel}`
    case 'bend':
      return `bend${channel}`
    case 'pressure':
      return `pressure${channel}`
    case 'note':
      return `note ${m.number}${channel}`
    case 'key':
      return `key ${m.key ?? ''}`
  }
}
