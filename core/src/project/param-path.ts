import type { Target } from './schema'

/**
 * A parameter of an owner as one text: `cutoff`, `bands[2].gain`, or `bands[*].gain` for that of every item
 * of a lane. Live values and gauges go by it.
 */
export const pathOf = (t: Pick<Target, 'param' | 'lane' | 'index'>): string =>
  t.lane === undefined ? t.param : `${t.lane}[${t.index ?? '*'}].${t.param}`

/** The target that an owner and a path name. */
export function targetAt(owner: string, path: string): Target {
  const place = lanePlace(path)
  if (!place) return { owner, param: path }
  return place.index === undefined
    ? { owner, param: place.param, lane: place.lane }
    : { owner, param: place.param, lane: place.lane, index: place.index }
}

/** The lane, index (none for all) and parameter of a path into a lane; undefined for one that is not. */
export function lanePlace(path: string): { lane: string; index?: number; param: string } | undefined {
  const m = /^(\w+)\[(\d+|\*)\]\.(\w+)$/.exec(path)
  if (!m || !m[1] || !m[3]) return undefined
  return m[2] === '*' ? { lane: m[1], param: m[3] } : { lane: m[1], index: Number(m[2]), param: m[3] }
}

/** Owner and path together, as gauges are marked and live values are named. */
export const gaugeKey = (owner: string, path: string): string => `${owner}.${path}`

/** The two parts of a {@link gaugeKey}. */
export function splitGaugeKey(key: string): [owner: string, path: string] {
  const at = key.indexOf('.')
  return [key.slice(0, at), key.slice(at + 1)]
}
