import { expect, it } from 'vitest'
import { LevelMatch } from '../audio/level-match'

it('brings B and dry to the loudness of A, once they are known', () => {
  const m = new LevelMatch()
  m.turnTo('t', 0)
  m.note('a', -20, -26, 1000)
  expect(m.gainDb('a', false)).toBe(0)
  m.note('a', -20, -26, 4000)
  expect(m.gainDb('a', true)).toBe(6)
  m.turnTo('t', 5000)
  m.note('b', -14, -26, 9000)
  expect(m.gainDb('b', false)).toBe(-6)
  expect(m.gainDb('a', false)).toBe(0)
  m.turnTo('other', 9500)
  expect(m.gainDb('a', true)).toBe(0)
})

it('takes the loudness of one stretch as measured, and forgets what is silent', () => {
  const m = new LevelMatch()
  m.turnTo('t', 0)
  m.take({ a: -17.3, b: -31.3, dry: -20 })
  expect(m.gainDb('b', false)).toBeCloseTo(14, 6)
  expect(m.gainDb('a', true)).toBeCloseTo(2.7, 6)
  m.take({ a: -17.3, b: -Infinity, dry: -20 })
  expect(m.gainDb('b', false)).toBe(0)
})
