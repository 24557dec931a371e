import { watch } from 'vue'
import type { EngineHost } from '../audio/host'
import { LevelMatch } from '../audio/level-match'
import { onFrame } from '../composables/useFrame'
import type { useBench } from '../stores/bench'

/** Time between two looks at the loudness, in ms. */
const LOOK_MS = 500

/** Keeps the selected track at one loudness, whichever of A, B and dry is heard. */
export function matchLevels(bench: ReturnType<typeof useBench>, host: EngineHost): void {
  const match = new LevelMatch()
  const set = (heard: 'a' | 'b'): void => {
    bench.matchDb = Math.round(match.gainDb(heard, bench.hearDry) * 10) / 10
  }
  watch(
    () => [bench.track?.id, bench.track?.heard, bench.hearDry] as const,
    ([id, heard]) => {
      match.turnTo(id ?? '', performance.now())
      set(heard ?? 'a')
    },
  )
  let measured = 0
  onFrame((now) => {
    if (!bench.playing || now - measured < LOOK_MS) return
    measured = now
    const { telemetry } = host
    const gain = bench.monitor.match ? bench.matchDb : 0
    const heard = bench.track?.heard ?? 'a'
    if (!bench.hearDry) match.note(heard, telemetry.fixed('wet short') - gain, telemetry.fixed('dry short'), now)
    else set(heard)
  })
}
