import { afterEach, describe, expect, it, vi } from 'vitest'
import { Shipped } from '../storage/shipped'

const catalogue = {
  projects: [{ id: 'night-ferry', name: 'Night Ferry', file: 'night-ferry.json' }],
  sounds: [{ file: 'fog-pad', title: 'Fog pad', hash: 'new', formerly: 'old', frames: 311, channels: 2 }],
}
const answer = (body: BodyInit, type: string, status = 200): Response =>
  new Response(body, { status, headers: { 'content-type': type } })

/**
 * A host that gives files by their path; a page stands for what it does not have, as on many static hosts.
 */
function host(files: Record<string, Response>) {
  const asked: string[] = []
  vi.stubGlobal('fetch', (url: string) => {
    asked.push(url)
    return Promise.resolve(files[url]?.clone() ?? answer('<!doctype html>', 'text/html'))
  })
  return asked
}
afterEach(() => vi.unstubAllGlobals())

describe('what ships with the app', () => {
  it('is found below the path of the app, sounds by either of their names', async () => {
    const asked = host({
      '/there/demo/catalogue.json': answer(JSON.stringify(catalogue), 'application/json'),
      '/there/demo/fog-pad.wav': answer('RIFF', 'audio/wav'),
      '/there/demo/night-ferry.json': answer('{}', 'application/json'),
    })
    const ships = new Shipped('/there/')
    for (const name of ['new', 'old']) expect(await (await ships.sound(name))?.text()).toBe('RIFF')
    expect(await ships.project('night-ferry')).toBe('{}')
    expect(await ships.sound('../night-ferry')).toBeUndefined()
    expect(asked.filter((url) => url.endsWith('catalogue.json'))).toHaveLength(1)
  })

  it('is said to be missing where a host answers with its page, and is asked for again', async () => {
    const files: Record<string, Response> = {}
    host(files)
    const ships = new Shipped('/')
    await expect(ships.project('night-ferry')).rejects.toThrow('could not be loaded')
    files['/demo/catalogue.json'] = answer(JSON.stringify(catalogue), 'application/json')
    await expect(ships.project('night-ferry')).rejects.toThrow('could not be loaded')
    files['/demo/night-ferry.json'] = answer('{"name":"x"}', 'application/json')
    expect(await ships.project('night-ferry')).toBe('{"name":"x"}')
  })
})
