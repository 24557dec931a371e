import type { EngineHost } from '../audio/host'
import { giveWayTo, restWhile } from '../drawing/frames'
import type { Stores } from '../stores/index'
import type { Guards } from './guards'

/** Sound below this loudness is taken for silence by the pictures. */
const RINGS_LUFS = -70

/** Says on the page what the engine reports, and has pictures rest or give way as it needs. */
export function heedEngine(
  { doc, monitoring, notices, devices }: Pick<Stores, 'doc' | 'monitoring' | 'notices' | 'devices'>,
  host: EngineHost,
  guards: Guards,
): void {
  host.on.overBudget = (sentence) => {
    notices.overBudget = sentence
  }
  host.on.trouble = (sentence) => {
    doc.trouble = sentence
  }
  host.on.tripped = (key) => guards.trip(key)
  host.on.failed = (key) => guards.fail(key)
  host.on.howl = () => {
    notices.howls = true
  }
  host.on.feedback = (ids) => {
    monitoring.feedbackEdges = ids
  }
  host.on.state = (state) => {
    notices.noOutput = state === 'stalled'
    if (state === 'failed') monitoring.playing = monitoring.starting = false
  }
  navigator.mediaDevices?.addEventListener('devicechange', () => {
    if (notices.noOutput) void host.tryAgain()
  })
  giveWayTo(() => host.telemetry.fixed('missed'))
  // pictures also move while tails ring out after Stop
  restWhile(
    () =>
      !monitoring.playing &&
      !monitoring.starting &&
      !devices.openInput &&
      !(host.telemetry.fixed('wet momentary') > RINGS_LUFS),
  )
}
