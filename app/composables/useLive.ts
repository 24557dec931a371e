import { effectDefinition } from '@oleaje/core/effects/index'
import { effectOf } from '@oleaje/core/project/chain-edits'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { linkEnds } from '@oleaje/core/project/targets'
import type { ParamSpec } from '@oleaje/core/units/parameter'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { computed } from 'vue'
import { useSession } from './useSession'

/**
 * The values of an effect as its picture wants them: as set, as they are now, and at the two ends of what
 * moves them.
 */
export function useLive(id: string) {
  const { doc, host, selection } = useSession()
  const effect = computed(() => (doc.project ? effectOf(doc.project, id) : undefined))
  const specs = computed<Record<string, ParamSpec>>(() => ({
    ...(effect.value ? effectDefinition(effect.value.type)?.params : {}),
    ...commonParams,
  }))
  const base = computed(() =>
    Object.fromEntries(
      Object.entries(specs.value).map(([k, s]) => [k, effect.value?.params[k] ?? s.default]),
    ),
  )
  const links = computed(() => (doc.project?.links ?? []).filter((l) => l.target.owner === id && l.on))

  /** Values now, from the engine. */
  function now(): Record<string, number> {
    const out: Record<string, number> = {}
    for (const k of Object.keys(specs.value)) {
      const spec = specs.value[k] as ParamSpec
      const key = `live:${id}.${k}`
      out[k] = host.telemetry.has(key)
        ? fromNormalized(spec, host.telemetry.get(key, toNormalized(spec, base.value[k] ?? 0)))
        : (base.value[k] ?? 0)
    }
    return out
  }

  /**
   * The two ends: of the modulator in hand or pointed at, or else of all links together. Null where nothing
   * moves it.
   */
  const ends = computed(() => {
    const only = selection.inHand ?? selection.pointed?.modulator
    const chosen =
      only && links.value.some((l) => l.source === only)
        ? links.value.filter((l) => l.source === only)
        : links.value
    if (!chosen.length) return null
    const low = { ...base.value }
    const high = { ...base.value }
    for (const link of chosen) {
      const spec = specs.value[link.target.param]
      if (!spec) continue
      const e = linkEnds(link, spec, base.value[link.target.param] ?? spec.default)
      low[link.target.param] = fromNormalized(spec, e.from)
      high[link.target.param] = fromNormalized(spec, e.to)
    }
    const m = doc.project?.tracks.flatMap((t) => t.modulators).find((x) => x.id === chosen[0]?.source)
    return { low, high, hue: m?.hue ?? 0 }
  })

  const readout = (name: string): number => host.telemetry.get(`read:node:${id}:${name}`)
  const peak = (): number => host.telemetry.get(`peak:node:${id}`)
  return { effect, base, specs, now, ends, readout, peak }
}
