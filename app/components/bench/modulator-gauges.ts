import { modulatorDefinition } from '@oleaje/core/modulators/index'
import type { Modulator } from '@oleaje/core/project/schema'

type Read = (param: string) => number
/** For each kind, what takes a parameter away while it does nothing. */
const idle: Record<string, (k: string, v: Read) => boolean> = {
  lfo: (k, v) => (k === 'rate' && v('sync') >= 0.5) || (k === 'length' && v('sync') < 0.5) || (k === 'width' && v('shape') !== 1 && v('shape') !== 4)
    || (k === 'trigger' && v('goes') === 0) || (k === 'level' && (v('goes') === 0 || v('trigger') !== 2)),
  drift: (k, v) => ((k === 'density' || k === 'back') && v('kind') !== 2) || (k === 'size' && v('kind') === 0),
  steps: (k, v) => (k === 'root' || k === 'span') && v('scale') === 0,
  envelope: (k, v) => (k === 'every' && v('trigger') !== 2) || (k === 'level' && v('trigger') !== 1 && v('trigger') !== 3) || (k === 'velocity' && v('trigger') !== 0 && v('trigger') !== 3),
  combine: (k, v) => (k === 'level' && v('how') !== 5 && v('how') !== 6) || (k === 'steps' && v('how') !== 7) || (k === 'time' && v('how') !== 8) || (k === 'second' && v('how') > 4),
}

/** The parameters of a modulator that do something as it is set now. */
export function gaugesOf(m: Modulator): string[] {
  const params = modulatorDefinition(m.type)?.params ?? {}
  const read: Read = (k) => m.params[k] ?? params[k]?.default ?? 0
  return Object.keys(params).filter((k) => !idle[m.type]?.(k, read))
}
