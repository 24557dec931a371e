import { type ChildProcess, spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { type Socket, connect } from 'node:net'
import { join } from 'node:path'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { newEffect, newId, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'

/**
 * `npm run attack`: 200 renders by 16 clients at a server of its own on the loopback, with idle, slow,
 * leaving and lying ones among them. Prints what each kind got, how long after its fault it was let go, and
 * what memory the server took.
 */
const root = process.env.OLEAJE_ROOT ?? '.'
const PORT = 4690
const RENDERS = 200
const CLIENTS = 16
const MB = 1024 * 1024

type Kind = 'honest' | 'idle' | 'slow' | 'leaving' | 'lying' | 'trickling' | 'heavy' | 'nonsense'
/** What each of sixteen requests is. */
const KINDS: readonly Kind[] = [
  'honest',
  'honest',
  'honest',
  'honest',
  'honest',
  'honest',
  'idle',
  'slow',
  'leaving',
  'leaving',
  'lying',
  'trickling',
  'heavy',
  'nonsense',
  'honest',
  'honest',
]

interface Outcome {
  readonly kind: Kind
  readonly status: number
  readonly seconds: number
  readonly afterFault: number
  readonly whole: boolean
}

const project = (effects: (p: Project) => void): Project => {
  const p = structuredClone(newProject('Skerries'))
  p.tracks.unshift(structuredClone(newTrack('Pad', newSource('tone'), 't')))
  effects(p)
  return p
}
const pack = async (p: Project): Promise<Uint8Array> => writeBundle({ project: p, audio: new Map() })
const [plain, heavy, long] = await Promise.all([
  pack(
    project((p) => {
      p.tracks[0]?.a.nodes.push(newEffect('filter'), newEffect('reverb'))
    }),
  ),
  pack(
    project((p) => {
      p.tracks[0]?.a.nodes.push(
        ...Array.from({ length: 64 }, (_, i) => ({ ...newEffect('stutter'), id: `${newId()}${i}` })),
      )
    }),
  ),
  pack(
    project((p) => {
      p.tracks[0]?.a.nodes.push(newEffect('gain'))
    }),
  ),
])

/** One request by hand, so that it can misbehave. */
function request(kind: Kind): Promise<Outcome> {
  const body =
    kind === 'nonsense'
      ? new Uint8Array(5000).fill(7)
      : kind === 'heavy'
        ? heavy
        : kind === 'idle' || kind === 'slow' || kind === 'leaving'
          ? long
          : plain
  const seconds =
    kind === 'idle' ? 240 : kind === 'slow' ? 60 : kind === 'heavy' ? 200 : kind === 'leaving' ? 900 : 2
  const promised = kind === 'lying' ? body.length + 100_000 : body.length
  const began = performance.now()
  /** When it began to misbehave; an honest one never does. */
  let fault = kind === 'lying' ? began : Infinity
  return new Promise((resolve) => {
    const socket: Socket = connect(PORT, '127.0.0.1')
    let status = 0
    let got = 0
    let length = -1
    let head = ''
    let trickle: ReturnType<typeof setInterval> | undefined
    const end = (): void => {
      clearInterval(trickle)
      const now = performance.now()
      resolve({
        kind,
        status,
        seconds: (now - began) / 1000,
        afterFault: fault === Infinity ? 0 : Math.max(0, (now - fault) / 1000),
        whole: length >= 0 && got >= length,
      })
    }
    socket.on('error', () => {})
    socket.on('close', end)
    socket.on('connect', () => {
      socket.write(
        `POST /api/render?from=0&to=${seconds}&tail=0 HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Type: application/zip\r\nContent-Length: ${promised}\r\n\r\n`,
      )
      if (kind === 'trickling') {
        let at = 0
        fault = performance.now()
        trickle = setInterval(() => {
          socket.write(body.subarray(at, ++at))
        }, 500)
      } else socket.write(body)
    })
    socket.on('data', (part) => {
      got += part.length
      if (length < 0) {
        head += part.toString('latin1')
        const at = head.indexOf('\r\n\r\n')
        if (at < 0) return
        status = Number(/^HTTP\/1\.1 (\d+)/.exec(head)?.[1] ?? 0)
        length = Number(/content-length: (\d+)/i.exec(head)?.[1] ?? 0)
        got = head.length - at - 4
        if (status === 200 && kind === 'idle') {
          fault = performance.now()
          socket.pause()
          // a socket that is not read hears nothing of its end; what is left then is read, and it ends at
          // once if it was let go
          setTimeout(() => socket.resume(), 9000)
        }
        if (status === 200 && kind === 'leaving') socket.destroy()
      }
      if (kind === 'slow' && status === 200) {
        socket.pause()
        setTimeout(() => socket.resume(), 30)
      }
    })
  })
}

/** Memory of a process in bytes, as the system tells it. */
const memoryOf = (server: ChildProcess): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))?.[1] ?? 0) * 1024

const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
  env: { ...process.env, PORT: String(PORT), HOST: '127.0.0.1' },
  stdio: 'ignore',
  cwd: root,
})
try {
  for (let tries = 0; tries < 100; tries++)
    if (
      await fetch(`http://127.0.0.1:${PORT}/api/health`).then(
        (r) => r.ok,
        () => false,
      )
    )
      break
    else await new Promise((r) => setTimeout(r, 100))
  const before = memoryOf(server)
  let peak = before
  const watch = setInterval(() => {
    peak = Math.max(peak, memoryOf(server))
  }, 50)
  const outcomes: Outcome[] = []
  let next = 0
  let turnedAway = 0
  await Promise.all(
    Array.from({ length: CLIENTS }, async () => {
      while (next < RENDERS) {
        const kind = KINDS[next++ % KINDS.length] as Kind
        let outcome = await request(kind)
        // who is told to come again does so, after a while
        for (; outcome.status === 429; outcome = await request(kind)) {
          turnedAway++
          await new Promise((r) => setTimeout(r, 700))
        }
        outcomes.push(outcome)
      }
    }),
  )
  await new Promise((r) => setTimeout(r, 60_000))
  clearInterval(watch)
  const after = memoryOf(server)
  for (const kind of new Set(KINDS)) {
    const of = outcomes.filter((o) => o.kind === kind)
    const statuses = [...new Set(of.map((o) => o.status))]
      .sort((a, b) => a - b)
      .map((s) => `${s || 'closed'} × ${of.filter((o) => o.status === s).length}`)
      .join(', ')
    const whole = of.filter((o) => o.status === 200 && o.whole).length
    console.log(
      `${kind.padEnd(10)} ${String(of.length).padStart(4)}   ${statuses.padEnd(40)} whole ${whole}, longest ${Math.max(...of.map((o) => o.seconds)).toFixed(1)} s, let go ${Math.max(...of.map((o) => o.afterFault)).toFixed(1)} s after its fault`,
    )
  }
  console.log(`${turnedAway} times a client was told to come again`)
  console.log(
    `server     ${(before / MB).toFixed(0)} MB before, ${(peak / MB).toFixed(0)} MB at most, ${(after / MB).toFixed(0)} MB a minute after`,
  )
} finally {
  server.kill()
}
