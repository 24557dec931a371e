import { sourceDefinition } from '@oleaje/core/sources/index'
import { watchDebounced } from '@vueuse/core'
import { watch } from 'vue'
import type { EngineHost } from '../audio/host'
import { LevelMatch } from '../audio/level-match'
import { onFrame } from '../drawing/frames'
import type { useDocument } from '../stores/document'
import type { Stores } from '../stores/index'
import type { HeavyWorker } from '../workers/heavy-worker'
import type { Sounds } from './sounds'

/** Time between two looks at the live loudness, in ms. */
const LOOK_MS = 500
/** Time in ms for which a chain must stand before its loudness is measured again. */
const STANDS_MS = 400
/** Length in seconds of the stretch over which A, B and dry are compared. */
const STRETCH = 12

/**
 * Keeps the selected track at one loudness, whether A, B or dry is monitored. All three are rendered over the
 * same stretch and measured, each time something changes while they are being compared. A live input cannot
 * be rendered: there, each is measured while it is heard.
 */
export function matchLevels(
  { selection, monitoring }: Pick<Stores, 'selection' | 'monitoring'>,
  doc: ReturnType<typeof useDocument>,
  sounds: Sounds,
  heavy: HeavyWorker,
  host: EngineHost,
): void {
  const match = new LevelMatch()
  const isLive = (): boolean => sourceDefinition(selection.track?.source?.type ?? '')?.device !== undefined
  const set = (): void => {
    monitoring.matchDb = Math.round(match.gainDb(selection.track?.heard ?? 'a', monitoring.hearDry) * 10) / 10
  }
  watch(
    () => [selection.track?.id, selection.track?.heard, monitoring.hearDry] as const,
    ([id]) => {
      match.turnTo(id ?? '', performance.now())
      set()
    },
  )
  let asked = 0
  watchDebounced(
    () => {
      const { track } = selection
      const compares = monitoring.matching && !!track && (track.b !== null || monitoring.hearDry)
      return compares && !isLive() ? ([doc.project, track.id] as const) : null
    },
    async (of) => {
      const [project, track] = of ?? []
      if (!project || !track) return
      const mine = ++asked
      const copy = JSON.parse(JSON.stringify(project)) as typeof project
      const found = await heavy.call.loudnessOf(copy, sounds.ofProject(), track, STRETCH).catch(() => null)
      if (!found || mine !== asked || selection.track?.id !== track) return
      match.take(found)
      set()
    },
    { debounce: STANDS_MS, immediate: true },
  )
  let measured = 0
  onFrame((now) => {
    if (!monitoring.playing || now - measured < LOOK_MS || !isLive()) return
    measured = now
    const { telemetry } = host
    const gain = monitoring.monitor.match ? monitoring.matchDb : 0
    if (!monitoring.hearDry)
      match.note(
        selection.track?.heard ?? 'a',
        telemetry.fixed('wet short') - gain,
        telemetry.fixed('dry short'),
        now,
      )
    else set()
  })
}
