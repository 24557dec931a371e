import { describe, expect, it } from 'vitest'
import { bytesInMemory } from '@oleaje/core/formats/byte-asks'
import { audioHash } from '@oleaje/core/formats/hash'
import { isPack, readPack, writePack } from '@oleaje/core/formats/pack'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { newEffect, newProject } from '@oleaje/core/project/new'
import { type Preset, presetOfNew } from '@oleaje/core/project/preset'
import { ZipWriter, TextReader, Uint8ArrayWriter } from '@zip.js/zip.js'
import { noise } from './rig'

const named = (name: string, more: Partial<Preset> = {}): Preset => ({
  ...presetOfNew(newEffect('filter', { cutoff: 311 }, 'f'), name),
  tags: ['colour'],
  about: 'A filter at 311 Hz',
  materials: ['drums'],
  ...more,
})
const zipOf = async (files: Record<string, string>): Promise<Uint8Array> => {
  const zip = new ZipWriter(new Uint8ArrayWriter())
  for (const [name, text] of Object.entries(files)) await zip.add(name, new TextReader(text))
  return zip.close()
}

describe('packs', () => {
  it('come back as they were, with the sounds of their presets, and are the same bytes each time', async () => {
    const sound = { sampleRate: 48_000, channels: [noise(0.11, 7, 0.5)] }
    const hash = await audioHash(sound)
    const with_ = named('Quay / night?', {
      audio: {
        [hash]: { name: 'Cabin', frames: sound.channels[0]?.length ?? 1, channels: 1, sampleRate: 48_000 },
      },
    })
    const pack = {
      name: 'Harbour',
      presets: [named('Hull'), with_, named('Hull')],
      audio: new Map([[hash, sound]]),
    }
    const file = await writePack(pack)
    expect(await writePack(pack)).toEqual(file)
    expect(await isPack(bytesInMemory(file))).toBe(true)
    const back = await readPack(file)
    expect(back.name).toBe('Harbour')
    expect(back.presets).toEqual(pack.presets)
    expect(back.refused).toEqual([])
    expect(back.audio.get(hash)?.channels[0]).toEqual(sound.channels[0])
  })

  it('keep an effect that this version does not know, and bring older presets up', async () => {
    const strange = JSON.stringify(named('From later')).replace('"type":"filter"', '"type":"tide-mill"')
    const { about, materials, origin, ...old } = named('From before')
    expect(about && materials && origin === '').toBe(true)
    const file = await zipOf({
      'oleaje-pack.json': JSON.stringify({
        format: 'oleaje-pack',
        version: 1,
        name: 'Mixed',
        presets: ['presets/a.json', 'presets/b.json', 'presets/c.json', 'presets/d.json'],
      }),
      'presets/a.json': strange,
      'presets/b.json': JSON.stringify({ ...old, version: 2 }),
      'presets/c.json': '{"format":"oleaje-preset","version":9}',
    })
    const back = await readPack(file)
    expect(back.presets.map((p) => p.name)).toEqual(['From later', 'From before'])
    expect(JSON.stringify(back.presets[0])).toContain('tide-mill')
    expect(back.presets[1]).toMatchObject({ version: 3, about: '', materials: [], origin: '' })
    expect(back.refused).toEqual([
      expect.stringContaining('c.json: This preset was made by a newer Oleaje (version 9)'),
      'd.json: It is missing from the pack.',
    ])
  })

  it.each([
    ['a list of another format', { 'oleaje-pack.json': '{"format":"x"}' }, /not a pack/],
    ['a list that is no JSON', { 'oleaje-pack.json': '{' }, /not a pack/],
    ['a newer pack', { 'oleaje-pack.json': '{"version":7}' }, /newer Oleaje \(version 7\)/],
    ['no list', { 'other.json': '{}' }, /not a pack/],
  ])('refuse %s in a sentence', async (_, files, message) => {
    await expect(readPack(await zipOf(files as unknown as Record<string, string>))).rejects.toThrow(message)
  })

  it('are told from bundles and damaged files', async () => {
    const bundle = await writeBundle({ project: newProject('x'), audio: new Map() })
    expect(await isPack(bytesInMemory(bundle))).toBe(false)
    expect(await isPack(bytesInMemory(new Uint8Array([0x50, 0x4b, 3, 4, 9])))).toBe(false)
    await expect(readPack(new Uint8Array(40))).rejects.toThrow('This pack is broken')
  })
})
