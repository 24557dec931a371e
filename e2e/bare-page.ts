import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { extname, join } from 'node:path'
import type { AudioData } from '@oleaje/core/contract/audio'
import { newSource } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { trackAlone } from '@oleaje/core/project/track-alone'
import { planRender, render } from '@oleaje/core/render/render'

/** Serves a folder like a plain web server: no isolation headers. */
export async function served(folder: string): Promise<{ url: string; close: () => void }> {
  const kinds: Record<string, string> = { '.html': 'text/html', '.js': 'text/javascript' }
  const server = createServer((asked, answer) => {
    const file = join(folder, asked.url === '/' ? 'index.html' : (asked.url ?? '').split('?')[0]!)
    try {
      const bytes = readFileSync(file)
      answer.writeHead(200, { 'content-type': kinds[extname(file)] ?? 'application/octet-stream' })
      answer.end(bytes)
    } catch {
      answer.writeHead(404).end()
    }
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as { port: number }
  return { url: `http://127.0.0.1:${port}/`, close: () => server.close() }
}

/** A second of noise at 48 kHz, the same here and in a page: {@link NOISE_IN_PAGE}. */
export const NOISE_IN_PAGE = `(() => { const noise = new Float32Array(48000); let seed = 11; for (let i = 0; i < noise.length; i++) { seed = (Math.imul(seed, 1664525) + 1013904223) | 0; noise[i] = (seed / 2147483648) * 0.3 } return noise })()`
export const noise = (0, eval)(NOISE_IN_PAGE) as Float32Array<ArrayBuffer>

/** What an exported chain makes of the noise, by the engine here; left side. */
export function throughChain(project: Project, track: string): Float32Array {
  const found = project.tracks.find((t) => t.id === track)!
  const own = { ...found, source: newSource('loop', {}, 'x', `${track}-feed`), line: null }
  const alone = {
    ...trackAlone(project, own),
    audio: { x: { name: 'x', frames: noise.length, channels: 1, sampleRate: 48_000 } },
  }
  const audio: AudioData = { sampleRate: 48_000, channels: [noise] }
  const out = new Float32Array(noise.length)
  let at = 0
  for (const { channels, done } of render(planRender(alone, { from: 0, to: 1, tail: 0 }), () => audio)) {
    out.set(channels[0].subarray(0, done - at), at)
    at = done
  }
  return out
}

/**
 * An expression for a bare page: noise through its module, the left side as an array with the latency taken
 * off, and zeros at its end.
 * @param macro where all macros are put; null leaves them
 */
export const inBarePage = (file: string, macro: number | null): string => `(async () => {
  const { createChain, macros } = await import('/${file}')
  const noise = ${NOISE_IN_PAGE}
  const context = new OfflineAudioContext(2, noise.length, 48000)
  const chain = await createChain(context)
  const buffer = context.createBuffer(1, noise.length, 48000)
  buffer.copyToChannel(noise, 0)
  const source = new AudioBufferSourceNode(context, { buffer })
  source.connect(chain)
  chain.connect(context.destination)
  source.start()
  ${macro === null ? '' : `for (const { key } of macros) chain.macros[key].value = ${macro}`}
  const out = await context.startRendering()
  const late = Math.round(chain.latency * 48000)
  return { left: Array.from(out.getChannelData(0).subarray(late)) }
})()`
