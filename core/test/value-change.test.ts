import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { apply } from '@oleaje/core/project/edit'
import { difference, patched } from '@oleaje/core/project/patch'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { pathsOf, specAt } from '@oleaje/core/project/targets'
import { valueOf } from '@oleaje/core/project/value-change'
import { setNormalized, setParam } from '@oleaje/core/project/value-edits'
import { type Owner, ownerId, ownersIn } from '@oleaje/core/project/walk'
import { Random } from '@oleaje/core/dsp/random'
import { RATE, noise } from './rig'

const assets = join(import.meta.dirname, '../../demo/assets')
const demos = readdirSync(assets)
  .filter((name) => name.endsWith('.json') && !['catalogue.json', 'library.json'].includes(name))
  .map((name) => ({ name, project: readProject(readFileSync(join(assets, name), 'utf8')) }))

const ownersOf = (project: Project): Owner[] => [
  ...project.tracks.flatMap((track): Owner[] => [
    { kind: 'track', track },
    ...(track.source ? [{ kind: 'source', source: track.source, track } as const] : []),
    ...ownersIn(track),
  ]),
  ...project.links.map((link): Owner => ({ kind: 'link', link })),
  ...project.sends.map((send): Owner => ({ kind: 'send', send })),
]

describe.each(demos)('each value of $name', ({ project }) => {
  it('is set and taken back by its path, as by an edit of a draft', () => {
    let direct = 0
    for (const owner of ownersOf(project))
      for (const path of pathsOf(owner)) {
        const place = 0.37
        const edit = setNormalized(ownerId(owner), path, place)
        const plain = apply(project, (p) => edit(p))
        const change = apply(project, edit)
        expect(difference(plain.next, change.next), `${owner.kind} ${path}`).toEqual([])
        expect(change.patches, `${owner.kind} ${path}`).toEqual(plain.patches)
        expect(difference(patched(change.next, change.inverse), project)).toEqual([])
        if (!change.isValue) continue
        direct++
        // a source is a track's one, and not found by an id
        if (owner.kind === 'source') continue
        for (const patch of change.patches)
          expect(valueOf(patch)).toMatchObject({
            owner: ownerId(owner),
            path,
            value: patch.op === 'set' ? patch.value : 0,
          })
      }
    expect(direct).toBeGreaterThan(20)
  })

  it('reaches the engine by its path as by the whole project, bit for bit', () => {
    const sound = noise(2.1, 7, 0.3)
    const make = (): Engine => {
      const engine = new Engine({
        sampleRate: RATE,
        audio: () => ({ sampleRate: RATE, channels: [sound] }),
        looping: true,
      })
      engine.load(project)
      engine.play(0)
      return engine
    }
    const [whole, one] = [make(), make()]
    const random = new Random(11)
    const owners = ownersOf(project)
    let now = project
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    for (let b = 0; b < 300; b++) {
      if (b % 3 === 0) {
        const owner = owners[Math.floor(random.next() * owners.length)]!
        const paths = pathsOf(owner)
        const path = paths[Math.floor(random.next() * paths.length)]!
        const spec = specAt(owner, path)!
        const { next, patches } = apply(
          now,
          setParam(ownerId(owner), path, spec.min + random.next() * (spec.max - spec.min)),
        )
        const value = patches.length === 1 ? valueOf(patches[0]!) : null
        now = next
        if (patches.length > 0) {
          whole.update(now)
          if (value) one.setValue(now, value.owner, value.path, value.value)
          else one.update(now)
        }
      }
      whole.process(left, right)
      const wanted = left.slice()
      one.process(left, right)
      if (left.some((x, i) => x !== wanted[i])) throw new Error(`differs in block ${b}`)
    }
  })
})
