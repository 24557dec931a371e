import { Reader, Writer, configure } from '@zip.js/zip.js'
import type { ByteSource } from './byte-asks'

// heavy work has a thread of its own already
configure({ useWebWorkers: false })

/** A file that is read in pieces, for the package. */
export class SourceReader extends Reader<ByteSource> {
  constructor(private readonly source: ByteSource) {
    super(source)
    this.size = source.size
  }

  override async readUint8Array(index: number, length: number): Promise<Uint8Array> {
    const bytes = await this.source.read(index, Math.min(this.size, index + length))
    return bytes.slice()
  }
}

/** Tells of each piece that is written, before the next comes. */
export class BytesTold extends Writer<undefined> {
  constructor(private readonly tell: (part: Uint8Array) => void | Promise<void>) {
    super()
  }

  override async writeUint8Array(part: Uint8Array): Promise<void> {
    await this.tell(part)
  }

  override getData(): Promise<undefined> {
    return Promise.resolve(undefined)
  }
}

/** Parts as one array. */
export function joinedParts(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}
