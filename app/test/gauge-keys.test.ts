import { describe, expect, it, vi } from 'vitest'
import { pressGaugeKey } from '../composables/gauge-keys'

/** Calls that a key makes. */
function pressed(
  key: string,
  bench: { repointing?: string; inHand?: string } = {},
): { known: boolean; did: unknown[][] } {
  const did: unknown[][] = []
  const call = (name: string) => vi.fn((...args: unknown[]) => void did.push([name, ...args]))
  const p = {
    step: call('step'),
    setAt: call('set'),
    reset: call('reset'),
    repoint: call('repoint'),
    link: call('link'),
  }
  const known = pressGaugeKey(key, p as never, bench as never, { type: call('type'), ask: call('ask') })
  return { known, did }
}

describe('keys of every gauge', () => {
  it.each([
    ['ArrowUp', ['step', 1]],
    ['ArrowRight', ['step', 1]],
    ['ArrowDown', ['step', -1]],
    ['ArrowLeft', ['step', -1]],
    ['Home', ['set', 0]],
    ['End', ['set', 1]],
    ['Backspace', ['reset']],
    ['Delete', ['reset']],
    ['Enter', ['type']],
    ['m', ['ask']],
    ['M', ['ask']],
  ])('%s', (key, wanted) => {
    expect(pressed(key)).toEqual({ known: true, did: [wanted] })
  })
  it('Enter links what is in hand, and gives a link that looks for one another target', () => {
    expect(pressed('Enter', { inHand: 'lfo' }).did).toEqual([['link', 'lfo']])
    expect(pressed('Enter', { inHand: 'lfo', repointing: 'k' }).did).toEqual([['repoint']])
  })
  it('all others are left to whoever else listens', () => {
    for (const key of [' ', 'Tab', 'Escape', 'x', 'PageUp'])
      expect(pressed(key)).toEqual({ known: false, did: [] })
  })
})
