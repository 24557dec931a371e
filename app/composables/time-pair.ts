import type { ParamSpecs } from '@oleaje/core/units/parameter'

/**
 * A rate or a time that is either in its own unit or a note length: one control that shows the one that
 * counts.
 */
export interface TimePair {
  /** The switch between the two. */
  readonly sync: string
  readonly free: string
  readonly synced: string
}

/**
 * The gauges of an owner, rates and times together with their note lengths. What is hidden by a pair stays
 * where something moves it.
 */
export function pairGauges(
  specs: ParamSpecs | undefined,
  names: readonly string[],
  isMoved: (param: string) => boolean,
  value: (param: string) => number,
): { readonly param: string; readonly pair?: TimePair }[] {
  const free = names.includes('rate') ? 'rate' : names.includes('time') ? 'time' : undefined
  const canPair =
    free &&
    names.includes('sync') &&
    names.includes('length') &&
    specs?.length?.unit === 'beats' &&
    specs.sync?.unit === 'toggle' &&
    !isMoved('sync')
  if (!canPair) return names.map((param) => ({ param }))
  const pair: TimePair = { sync: 'sync', free, synced: 'length' }
  const [shown, hidden] = value('sync') >= 0.5 ? ['length', free] : [free, 'length']
  return names.flatMap((param) => {
    if (param === 'sync' || (param === hidden && !isMoved(param))) return []
    return [param === shown ? { param, pair } : { param }]
  })
}
