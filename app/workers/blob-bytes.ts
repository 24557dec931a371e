import type { ByteSource } from '@oleaje/core/formats/byte-asks'

/** Bytes of a file that are made at a time. */
const FILE_PART = 1 << 22

/** A file as a source of bytes. */
export const sourceOf = (file: Blob): ByteSource => ({
  size: file.size,
  read: async (from, to) => new Uint8Array(await file.slice(from, to).arrayBuffer()),
})

/**
 * A file that is made piece by piece. What is full goes to the browser, which puts it on disk where it is
 * much.
 */
export class Parts {
  private readonly done: Blob[] = []
  private part = new Uint8Array(FILE_PART)
  private filled = 0

  add(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length;) {
      const n = Math.min(bytes.length - at, FILE_PART - this.filled)
      this.part.set(bytes.subarray(at, at + n), this.filled)
      at += n
      this.filled += n
      if (this.filled === FILE_PART) this.put()
    }
  }

  blob(type: string): Blob {
    this.put()
    return new Blob(this.done, { type })
  }

  private put(): void {
    this.done.push(new Blob([this.part.subarray(0, this.filled)]))
    this.filled = 0
  }
}
