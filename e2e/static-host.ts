import { createReadStream, existsSync, statSync } from 'node:fs'
import { type Server, createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { extname, join } from 'node:path'

const types: Record<string, string> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.json': 'application/json',
  '.webmanifest': 'application/manifest+json',
  '.svg': 'image/svg+xml',
  '.wav': 'audio/wav',
  '.woff2': 'font/woff2',
}

/**
 * A plain static host for a folder, without the headers of isolation and without any route of the server.
 * @param before what stands before the content of a file, by its path
 */
export async function staticHost(
  folder: string,
  before: (path: string) => string = () => '',
): Promise<{ url: string; end: () => Promise<void> }> {
  const server: Server = createServer((req, res) => {
    const path = decodeURIComponent(new URL(req.url ?? '/', 'http://localhost').pathname)
    let file = join(folder, path)
    if (existsSync(file) && statSync(file).isDirectory()) file = join(file, 'index.html')
    const isThere = file.startsWith(folder) && existsSync(file)
    if (!isThere) file = join(folder, '404.html')
    res.writeHead(isThere ? 200 : 404, {
      'content-type': types[extname(file)] ?? 'application/octet-stream',
      'cache-control': 'no-cache',
    })
    res.write(before(path))
    createReadStream(file).pipe(res)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    end: () =>
      new Promise((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}
