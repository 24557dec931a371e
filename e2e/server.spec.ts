import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { writeWav } from '@oleaje/core/formats/wav'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { presetOfTrack } from '@oleaje/core/project/preset'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { loadProject } from '../cli/src/load'
import { alone, expect, test } from './fixtures'

const root = join(import.meta.dirname, '..')
const demo = join(root, 'demo/assets/night-ferry.json')
const packed = loadProject(demo).then(writeBundle)
let bundleBytes = Buffer.alloc(0)
test.beforeAll(async () => {
  bundleBytes = Buffer.from(await packed)
})
const bundle = (): Buffer => bundleBytes
const zip = { 'content-type': 'application/zip' }

test('the server renders the demo bundle as the command line does, bit for bit', async ({ request }) => {
  const out = join(mkdtempSync(join(tmpdir(), 'oleaje-')), 'cli.wav')
  execFileSync(
    process.execPath,
    [
      'scripts/run-ts.mjs',
      'cli/src/main.ts',
      'render',
      demo,
      '--out',
      out,
      '--from',
      '0',
      '--to',
      '2',
      '--tail',
      '0.5',
      '--quiet',
    ],
    { cwd: root },
  )
  const response = await request.post('/api/render?from=0&to=2&tail=0.5', { headers: zip, data: bundle() })
  expect(response.status()).toBe(200)
  expect(response.headers()['content-type']).toBe('audio/wav')
  expect(Buffer.compare(await response.body(), readFileSync(out))).toBe(0)
})

test('malformed and hostile requests get their 4xx with a sentence', async ({ request }) => {
  const cases: [string, Parameters<typeof request.post>[1], number, RegExp][] = [
    ['/api/render?from=x', { headers: zip, data: bundle() }, 400, /wrong at “from”/],
    ['/api/render?from=', { headers: zip, data: bundle() }, 400, /wrong at “from”/],
    ['/api/render', { headers: { 'content-type': 'application/zipped' }, data: bundle() }, 415, /bundle/],
    ['/api/render?path=/etc/passwd', { headers: zip, data: bundle() }, 400, /wrong at/],
    ['/api/render?from=5&to=1', { headers: zip, data: bundle() }, 422, /empty/],
    ['/api/render?track=Anchor', { headers: zip, data: bundle() }, 422, /no track called/],
    ['/api/render?to=100000', { headers: zip, data: bundle() }, 422, /four hours/],
    ['/api/render?to=9000', { headers: zip, data: bundle() }, 422, /60 minutes/],
    ['/api/render', { headers: { 'content-type': 'text/html' }, data: 'x' }, 415, /bundle/],
    ['/api/render', { headers: zip, data: Buffer.alloc(0) }, 400, /no bundle/],
    ['/api/render', { headers: zip, data: Buffer.from('nonsense') }, 422, /not a zip/],
    [
      '/api/render',
      { headers: zip, data: Buffer.from(zipSync({ '../../x': strToU8('x') })) },
      422,
      /forbidden name/,
    ],
    [
      '/api/render',
      {
        headers: zip,
        data: Buffer.from(zipSync({ 'project.json': strToU8('{"format":"oleaje-project","version":9}') })),
      },
      422,
      /newer Oleaje/,
    ],
  ]
  for (const [url, options, status, sentence] of cases) {
    const response = await request.post(url, options)
    expect(response.status(), url).toBe(status)
    expect(((await response.json()) as { message: string }).message).toMatch(sentence)
  }
})

test('what is not there is said in data, by the status that means it, with the headers of data', async ({
  request,
}) => {
  for (const [method, url, status, allow] of [
    ['get', '/api/nothing', 404, undefined],
    ['get', '/api/schemas/constructor', 404, undefined],
    ['get', '/api/render', 405, 'POST'],
    ['post', '/api/health', 405, 'GET'],
    ['delete', '/api/health', 405, 'GET'],
    ['put', '/api/schemas/project', 405, 'GET'],
  ] as const) {
    const response = await request[method](url)
    expect(response.status(), `${method} ${url}`).toBe(status)
    expect(response.headers()['content-type']).toContain('application/json')
    expect(response.headers().allow).toBe(allow)
  }
  for (const url of ['/api/health', '/api/schemas/project', '/api/nothing']) {
    const headers = (await request.get(url)).headers()
    expect([headers['x-content-type-options'], headers['cross-origin-resource-policy']], url).toEqual([
      'nosniff',
      'same-origin',
    ])
    // what an error gives has a policy of the server's own
    expect(headers['content-security-policy'], url).toMatch(
      /^(default|script)-src 'none'; frame-ancestors 'none'/,
    )
  }
})

test('a project that would take too much is refused with figures, before anything of it is made', async ({
  request,
}) => {
  const p = structuredClone(newProject('Skerries'))
  p.tracks.unshift(structuredClone(newTrack('Pad', newSource('tone'), 't')))
  p.tracks[0]!.a.nodes = Array.from({ length: 64 }, () => newEffect('stutter'))
  const began = performance.now()
  const response = await request.post('/api/render?from=0&to=200', {
    headers: zip,
    data: Buffer.from(await writeBundle({ project: p, audio: new Map() })),
  })
  expect(response.status()).toBe(422)
  expect(((await response.json()) as { message: string }).message).toMatch(
    /would take [\d,]+ MB of memory.*400 MB are available here/,
  )
  expect(performance.now() - began).toBeLessThan(3000)
})

test(
  'a client that does not read holds nothing up: it is dropped, and its job with it',
  alone,
  async ({ request, baseURL }) => {
    const { hostname, port } = new URL(baseURL!)
    const body = bundle()
    const rendering = async (): Promise<number> =>
      ((await (await request.get('/api/health')).json()) as { rendering: number }).rendering
    const socket = connect(Number(port), hostname, () => {
      socket.write(
        `POST /api/render?from=0&to=900&tail=0 HTTP/1.1\r\nHost: ${hostname}\r\nContent-Type: application/zip\r\nContent-Length: ${body.length}\r\n\r\n`,
      )
      socket.write(body)
    })
    socket.on('error', () => {})
    await new Promise<void>((resolve) =>
      socket.once('data', () => {
        socket.pause()
        resolve()
      }),
    )
    expect(await rendering()).toBe(1)
    await expect.poll(rendering, { timeout: 20_000 }).toBe(0)
    socket.destroy()
  },
)

test('an oversize bundle is refused before it is read', async ({ baseURL }) => {
  const { hostname, port } = new URL(baseURL!)
  const answer = await new Promise<string>((resolve, reject) => {
    const socket = connect(Number(port), hostname, () =>
      socket.write(
        `POST /api/render HTTP/1.1\r\nHost: ${hostname}\r\nContent-Type: application/zip\r\nContent-Length: 999999999\r\n\r\n`,
      ),
    )
    let text = ''
    socket.on('data', (d) => {
      text += String(d)
      if (text.includes('MB at most')) {
        socket.destroy()
        resolve(text)
      }
    })
    socket.on('error', reject)
  })
  expect(answer).toMatch(/413/)
})

test(
  'a client that leaves cancels its job, and past the queue there is 429',
  alone,
  async ({ request, baseURL }) => {
    const health = async (): Promise<{ rendering: number }> =>
      (await (await request.get('/api/health')).json()) as { rendering: number }
    const body = bundle()
    const leave = new AbortController()
    const long = Array.from({ length: 8 }, () =>
      fetch(`${baseURL}/api/render?from=0&to=1200`, {
        method: 'POST',
        headers: zip,
        body: new Uint8Array(body),
        signal: leave.signal,
      }).then(
        (r) => r.status,
        () => 0,
      ),
    )
    const full = await Promise.race(
      long.map(async (p) => {
        const status = await p
        return status === 429 ? status : new Promise<number>(() => {})
      }),
    )
    expect(full).toBe(429)
    expect((await health()).rendering).toBeGreaterThan(0)
    leave.abort()
    await expect.poll(async () => (await health()).rendering, { timeout: 20_000 }).toBe(0)
  },
)

test(
  'many clients send presets with many sounds at once: each is served in the end, none loses a file',
  alone,
  async ({ request, baseURL }) => {
    const long = process.env.OLEAJE_LONG !== undefined
    const [clients, files] = long ? [8, 20] : [7, 3]
    test.setTimeout(long ? 900_000 : 90_000)
    const track = newTrack('Fog pad', newSource('tone'), 't')
    track.a.nodes = [newEffect('drive', { drive: 9 }), newEffect('reverb', { wet: 0.4 })]
    const project = newProject('Night Ferry')
    project.tracks.unshift(track)
    const preset = strToU8(JSON.stringify(presetOfTrack(project, 't', 'Fog')))
    const bodyOf = (client: number): Uint8Array<ArrayBuffer> =>
      zipSync({
        'preset.json': preset,
        ...Object.fromEntries(
          Array.from({ length: files }, (_, n) => {
            const tone = Float32Array.from(
              { length: 9000 * (1 + (n % 3)) },
              (_v, i) => 0.4 * Math.sin((i * (311 + 7 * n + client)) / 48_000),
            )
            return [`${n}.wav`, new Uint8Array(writeWav({ sampleRate: 48_000, channels: [tone] }, 24))]
          }),
        ),
      }) as Uint8Array<ArrayBuffer>
    let refused = 0
    const send = (body: Uint8Array<ArrayBuffer>, query: string, signal?: AbortSignal): Promise<Response> =>
      fetch(`${baseURL}/api/render${query}`, { method: 'POST', headers: zip, body, signal })
    await Promise.all(
      Array.from({ length: clients }, async (_, c) => {
        const body = bodyOf(c)
        for (;;) {
          const answer = await send(body, '?tail=0.2')
          if (answer.status === 429) {
            refused++
            expect(Number(answer.headers.get('retry-after'))).toBeGreaterThan(0)
            await answer.arrayBuffer()
            await new Promise((resolve) => setTimeout(resolve, 300))
            continue
          }
          expect(answer.status).toBe(200)
          const made = unzipSync(new Uint8Array(await answer.arrayBuffer()))
          expect(Object.keys(made)).toHaveLength(files + 1)
          return
        }
      }),
    )
    expect(refused).toBeGreaterThan(0)
    const rendering = async (): Promise<number> =>
      ((await (await request.get('/api/health')).json()) as { rendering: number }).rendering
    // a client that leaves ends its job within a second
    const leave = new AbortController()
    const left = send(bodyOf(0), '?tail=30', leave.signal).catch(() => null)
    await expect.poll(rendering).toBe(1)
    leave.abort()
    await expect.poll(rendering, { timeout: 1000, intervals: [20] }).toBe(0)
    await left
  },
)

test('catalogue, sounds and schemas', async ({ request }) => {
  const catalogue = (await (await request.get('/demo/catalogue.json')).json()) as {
    sounds: { file: string }[]
  }
  const sound = await request.get(`/demo/${catalogue.sounds[0]!.file}.wav`)
  expect((await sound.body()).subarray(0, 4).toString()).toBe('RIFF')
  for (const name of ['..%2f..%2fpackage.json', 'x'])
    expect((await request.get(`/demo/${name}`)).status()).toBe(404)
  const schema = (await (await request.get('/api/schemas/project')).json()) as {
    properties: Record<string, unknown>
  }
  expect(Object.keys(schema.properties)).toContain('tracks')
  expect((await request.get('/api/schemas/preset')).status()).toBe(200)
  expect((await request.get('/api/schemas/none')).status()).toBe(404)
  const page = await request.get('/')
  expect(page.headers()['cross-origin-embedder-policy']).toBe('require-corp')
  expect(page.headers()['content-security-policy']).toContain("object-src 'none'")
})
