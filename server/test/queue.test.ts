import { describe, expect, it } from 'vitest'
import { limits } from '@oleaje/core/limits'
import { QueueFullError, RenderQueue } from '../rendering/queue'

const never = new AbortController().signal

describe('the queue of renders', () => {
  it('has one at work at a time, and gives the turn to who was served longest ago', async () => {
    const queue = new RenderQueue()
    const order: string[] = []
    const places = ['busy', 'busy', 'busy', 'other', 'third'].map((client) => ({
      client,
      place: queue.enter(client, 10),
    }))
    const turns = places.map(async ({ client, place }, i) => {
      await place.turn(never)
      order.push(`${client} ${i}`)
      await new Promise((r) => setTimeout(r, 5))
      expect(queue.running).toBe(1)
      place.leave()
    })
    await Promise.all(turns)
    expect(order).toEqual(['busy 0', 'other 3', 'third 4', 'busy 1', 'busy 2'])
    expect([queue.running, queue.waiting]).toEqual([0, 0])
  })
  it('is full at so many, and at so many bytes; who leaves makes room', () => {
    const queue = new RenderQueue()
    const places = Array.from({ length: 1 + limits.waiting.most }, () => queue.enter('a', 10))
    expect(() => queue.enter('b', 10)).toThrow(QueueFullError)
    places[0]?.leave()
    places[0]?.leave()
    queue.enter('b', 10)
    expect(() => queue.enter('b', 10)).toThrow(/waiting/)
    const large = new RenderQueue()
    large.enter('a', limits.requestBody.most)
    large.enter('a', limits.requestBody.most)
    expect(() => large.enter('b', 1)).toThrow(QueueFullError)
  })
  it('forgets who leaves while waiting', async () => {
    const queue = new RenderQueue()
    const [first, second, third] = [queue.enter('a', 1), queue.enter('b', 1), queue.enter('c', 1)]
    await first.turn(never)
    const left = new AbortController()
    const waiting = second.turn(left.signal)
    const last = third.turn(never)
    left.abort(new Error('gone'))
    await expect(waiting).rejects.toThrow('gone')
    second.leave()
    first.leave()
    await last
    expect(queue.running).toBe(1)
    third.leave()
    expect(queue.waiting).toBe(0)
  })
})
