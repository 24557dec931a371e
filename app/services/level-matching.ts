import { watch } from 'vue'
import type { EngineHost } from '../audio/host'
import { LevelMatch } from '../audio/level-match'
import { onFrame } from '../drawing/frames'
import type { Stores } from '../stores/index'

/** Time between two looks at the loudness, in ms. */
const LOOK_MS = 500

/** Keeps the selected track at one loudness, whichever of A, B and dry is heard. */
export function matchLevels(
  { selection, monitoring }: Pick<Stores, 'selection' | 'monitoring'>,
  host: EngineHost,
): void {
  const match = new LevelMatch()
  const set = (heard: 'a' | 'b'): void => {
    monitoring.matchDb = Math.round(match.gainDb(heard, monitoring.hearDry) * 10) / 10
  }
  watch(
    () => [selection.track?.id, selection.track?.heard, monitoring.hearDry] as const,
    ([id, heard]) => {
      match.turnTo(id ?? '', performance.now())
      set(heard ?? 'a')
    },
  )
  let measured = 0
  onFrame((now) => {
    if (!monitoring.playing || now - measured < LOOK_MS) return
    measured = now
    const { telemetry } = host
    const gain = monitoring.monitor.match ? monitoring.matchDb : 0
    const heard = selection.track?.heard ?? 'a'
    if (!monitoring.hearDry)
      match.note(heard, telemetry.fixed('wet short') - gain, telemetry.fixed('dry short'), now)
    else set(heard)
  })
}
