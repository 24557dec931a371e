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
