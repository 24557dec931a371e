import { MessageChannel } from 'node:worker_threads'
import { describe, expect, it } from 'vitest'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { readWav } from '@oleaje/core/formats/wav'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { planRender, renderWav } from '@oleaje/core/render/render'
import type { RenderJob, RenderMessage } from '../rendering/job'
import renderJob from '../rendering/worker'

function night() {
  const project = newProject('Night Ferry')
  const pad = newTrack('Fog pad', newSource('tone', {}, null, 'src'), 'pad')
  pad.a.nodes = [newEffect('reverb', {}, 'r')]
  project.tracks.unshift(pad)
  return project
}
const bundle = await writeBundle({ project: night(), audio: new Map() })

/** Runs a job as the server does; takes parts as they come, or as many as `most`. */
async function run(job: Partial<RenderJob>, most = Infinity): Promise<RenderMessage[]> {
  const { port1, port2 } = new MessageChannel()
  const got: RenderMessage[] = []
  const ended = new Promise<void>((resolve) => {
    port1.on('close', () => {
      resolve()
    })
  })
  port1.on('message', (message: RenderMessage) => {
    got.push(message)
    if (message.type === 'part' && got.filter((m) => m.type === 'part').length <= most)
      port1.postMessage('taken')
  })
  const done = renderJob({ bundle, options: { from: 0, to: 2, tail: 0 }, depth: 16, ...job, port: port2 })
  await (most === Infinity ? ended : new Promise((resolve) => setTimeout(resolve, 1500)))
  if (most === Infinity) await done
  else port1.close()
  return got
}

describe('a render in the server’s worker', () => {
  it('says the size first, then gives just so many bytes, and they are core’s render', async () => {
    const got = await run({})
    expect(got[0]).toEqual({ type: 'size', bytes: 44 + 2 * 48_000 * 2 * 2 })
    expect(got.at(-1)).toEqual({ type: 'done' })
    const file = Buffer.concat(got.flatMap((m) => (m.type === 'part' ? [m.bytes] : [])))
    expect(file.length).toBe(44 + 2 * 48_000 * 2 * 2)
    const wanted = Buffer.concat(
      [...renderWav(planRender(night(), { from: 0, to: 2, tail: 0 }), () => null, 16)].map((p) => p.bytes),
    )
    expect(Buffer.compare(file, wanted)).toBe(0)
    expect(readWav(file).channels[0]?.some((x) => Math.abs(x) > 0.01)).toBe(true)
  })
  it('runs only so far ahead of a client that does not take its parts', async () => {
    const got = await run({ options: { from: 0, to: 120, tail: 0 } }, 3)
    const parts = got.filter((m) => m.type === 'part').length
    expect(parts).toBeGreaterThan(3)
    expect(parts).toBeLessThanOrEqual(3 + 17)
    expect(got.some((m) => m.type === 'done')).toBe(false)
  })
  it.each([
    ['what is no bundle', { bundle: Buffer.from('not a zip') }, /bundle|zip/i],
    [
      'more than an hour',
      { options: { from: 0, to: 4000, tail: 0 } },
      /At most 60 minutes.*this would be 67/,
    ],
    ['a track that is not there', { options: { track: 'Anchor' } }, /Anchor/],
  ])('refuses %s with a sentence', async (_, job, sentence) => {
    const got = await run(job)
    expect(got).toHaveLength(1)
    expect(got[0]?.type).toBe('refused')
    expect(got[0]?.type === 'refused' ? got[0].message : '').toMatch(sentence)
  })
})
