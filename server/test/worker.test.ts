import { MessageChannel } from 'node:worker_threads'
import { describe, expect, it } from 'vitest'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { presetOfTrack } from '@oleaje/core/project/preset'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
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

/** A zip of a preset and sounds, one of which is none. */
function batch(): Uint8Array {
  const project = night()
  const tone = Float32Array.from({ length: 17_011 }, (_, i) => 0.3 * Math.sin(i / 17))
  return zipSync({
    'preset.json': strToU8(JSON.stringify(presetOfTrack(project, 'pad', 'Fog'))),
    'bell.wav': writeWav({ sampleRate: 44_100, channels: [tone] }, 24),
    'broken.wav': strToU8('no sound'),
    'more/horn.wav': writeWav({ sampleRate: 48_000, channels: [tone, tone] }, 16),
  })
}

describe('a preset over many sounds', () => {
  it('gives a zip with a render of each, and a report that names what failed', async () => {
    const got = await run({ bundle: batch(), options: { tail: 0.5 }, depth: 24 })
    expect(got[0]).toEqual({ type: 'begin', mime: 'application/zip' })
    expect(got.at(-1)).toEqual({ type: 'done' })
    const zip = unzipSync(Buffer.concat(got.flatMap((m) => (m.type === 'part' ? [m.bytes] : []))))
    expect(Object.keys(zip).sort()).toEqual(['bell.wav', 'more/horn.wav', 'report.json'])
    const bell = readWav(zip['bell.wav']!)
    expect([bell.sampleRate, bell.channels[0]!.length]).toEqual([44_100, 17_011 + 22_050])
    const report = JSON.parse(strFromU8(zip['report.json']!)) as {
      file: string
      failed?: string
      loudness?: number
    }[]
    expect(report.map((r) => [r.file, r.failed])).toEqual([
      ['bell.wav', undefined],
      ['broken.wav', 'This is not a WAV file: its header is missing.'],
      ['more/horn.wav', undefined],
    ])
    expect(report[0]!.loudness).toBeLessThan(-5)
    // the same request gives the same bytes of sound
    const again = await run({ bundle: batch(), options: { tail: 0.5 }, depth: 24 })
    const other = unzipSync(Buffer.concat(again.flatMap((m) => (m.type === 'part' ? [m.bytes] : []))))
    expect(Buffer.compare(other['bell.wav']!, zip['bell.wav']!)).toBe(0)
  })
  it('without sounds is refused', async () => {
    const preset = strToU8(JSON.stringify(presetOfTrack(night(), 'pad', 'Fog')))
    const [refused] = await run({ bundle: zipSync({ 'preset.json': preset }) })
    expect(refused).toMatchObject({
      type: 'refused',
      message: expect.stringContaining('no sounds') as string,
    })
  })
})

describe('a render in the server’s worker', () => {
  it('says the size first, then gives just so many bytes, and they are core’s render', async () => {
    const got = await run({})
    expect(got[0]).toEqual({ type: 'begin', mime: 'audio/wav', bytes: 44 + 2 * 48_000 * 2 * 2 })
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
