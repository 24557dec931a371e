import type { TimePair } from '@oleaje/core/contract/effect'
import type { ParamSpecs } from '@oleaje/core/units/parameter'

/**
 * The gauges of an owner, rates and times together with their note lengths. What is hidden by a pair stays
 * where something moves it.
 */
export function pairGauges(
  specs: ParamSpecs | undefined,
  names: readonly string[],
  isMoved: (param: string) => boolean,
  value: (param: string) => number,
  own?: TimePair,
): { readonly param: string; readonly pair?: TimePair }[] {
  const usual = { sync: 'sync', free: names.includes('rate') ? 'rate' : 'time', synced: 'length' }
  const pair = own ?? usual
  const { sync, free, synced } = pair
  const canPair =
    names.includes(free) &&
    names.includes(synced) &&
    specs?.[synced]?.unit === 'beats' &&
    specs[sync]?.unit === 'toggle' &&
    !isMoved(sync)
  if (!canPair) return names.map((param) => ({ param }))
  const [shown, hidden] = value(sync) >= 0.5 ? [synced, free] : [free, synced]
  return names.flatMap((param) => {
    if (param === sync || (param === hidden && !isMoved(param))) return []
    return [param === shown ? { param, pair } : { param }]
  })
}
