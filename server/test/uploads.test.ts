import { describe, expect, it } from 'vitest'
import { RenderQueue } from '../rendering/queue'
import { Uploads } from '../rendering/uploads'

describe('requests that are still coming', () => {
  it('hold no place: whole ones are served whatever trickles in', () => {
    let now = 0
    const uploads = new Uploads(() => now)
    const given: number[] = []
    const slow = Array.from({ length: 47 }, (_, i) => uploads.enter(() => given.push(i)))
    for (let s = 0; s < 30; s++) {
      now += 1000
      for (const u of slow) u.took(12_000)
    }
    const queue = new RenderQueue()
    queue.check(1000)
    const honest = uploads.enter(() => given.push(-1))
    honest.took(900_000)
    honest.leave()
    queue.enter('honest', 900_000)
    expect(given).toEqual([])
  })
  it('where there are too many, the slowest gives way, and not the newest', () => {
    let now = 0
    const uploads = new Uploads(() => now)
    const given: number[] = []
    const slow = Array.from({ length: 48 }, (_, i) => uploads.enter(() => given.push(i)))
    now = 5000
    slow.forEach((u, i) => u.took(i === 13 ? 100 : 60_000))
    uploads.enter(() => given.push(-1))
    expect(given).toEqual([13])
  })
})
