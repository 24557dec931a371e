import { describe, expect, it } from 'vitest'
import { clockText, readClock } from '../composables/clock-text'

describe('times of a long sound', () => {
  it.each([
    [0, '0:00'],
    [59.9996, '1:00'],
    [187.5, '3:07.5'],
    [6911.37, '1:55:11.37'],
    [3600, '1:00:00'],
    [7201.001, '2:00:01.001'],
  ])('%s seconds are %s, and back', (seconds, text) => {
    expect(clockText(seconds)).toBe(text)
    expect(readClock(text)).toBeCloseTo(seconds, 2)
  })
  it.each([
    ['754.5', 754.5],
    [' 12:34,5 ', 754.5],
    ['0:7', 7],
  ])('“%s” is read', (text, seconds) => {
    expect(readClock(text)).toBe(seconds)
  })
  it.each(['', 'soon', '1:60', '1:2:3:4', '-3', '1.5:00'])('“%s” is refused with a sentence', (text) => {
    expect(() => readClock(text)).toThrow('Enter a time such as')
  })
})
