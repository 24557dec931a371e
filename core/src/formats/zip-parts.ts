import { Reader, Writer, ZipWriter, configure } from '@zip.js/zip.js'
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

// where core runs there is one
declare const ReadableStream: new (o: {
  pull(controller: { enqueue(part: Uint8Array): void; close(): void }): Promise<void>
}) => object

const streamOf = (parts: AsyncIterator<Uint8Array>): object =>
  new ReadableStream({
    async pull(controller) {
      const next = await parts.next()
      if (next.done) controller.close()
      else controller.enqueue(next.value)
    },
  })

/** A zip file that is written file by file, stored as they are: sound does not get smaller. */
export class StoredZip {
  private readonly zip: ZipWriter<undefined>

  /** @param write takes the bytes as they come, and is waited for */
  constructor(write: (part: Uint8Array) => void | Promise<void>) {
    this.zip = new ZipWriter(new BytesTold(write), { level: 0, keepOrder: true })
  }

  /** Adds a file whose bytes are there, or that is made piece by piece meanwhile. */
  async add(name: string, file: ByteSource | AsyncIterator<Uint8Array>): Promise<void> {
    await this.zip.add(name, 'read' in file ? new SourceReader(file) : (streamOf(file) as never))
  }

  async end(): Promise<void> {
    await this.zip.close()
  }
}
