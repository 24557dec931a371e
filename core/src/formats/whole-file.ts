/**
 * Looks at the bytes of a compressed file as they go by, to tell whether it is whole. Decoders pass over what
 * they cannot read.
 */
export interface WholeCheck {
  push(bytes: Uint8Array): void
  /**
   * What is wrong with the file, once all of it has gone by. @param frames sample frames that were decoded
   */
  fault(frames: number): string | undefined
}

const CUT = 'it is cut off.'
const HOLE = 'a part of it is missing or cannot be read.'

/** A page of an Ogg file: 27 bytes, a table of its segments, and these. */
const PAGE_HEAD = 27
const [FIRST_PAGE, LAST_PAGE] = [2, 4]
/** The polynomial of the checksum of Ogg pages (RFC 3533: most significant bit first, no inversion). */
const OGG_POLYNOMIAL = 0x04c11db7
const crcTable = Uint32Array.from({ length: 256 }, (_, byte) => {
  let c = byte << 24
  for (let bit = 0; bit < 8; bit++) c = c & 0x80000000 ? (c << 1) ^ OGG_POLYNOMIAL : c << 1
  return c >>> 0
})

/**
 * Ogg: every page follows the one before it, is unharmed by its checksum, and the last one says that it is
 * the last (RFC 3533).
 */
export class OggCheck implements WholeCheck {
  private rest: Uint8Array = new Uint8Array(0)
  private hole = false
  private ended = false
  private readonly next = new Map<number, number>()

  push(bytes: Uint8Array): void {
    const data = joinedBytes(this.rest, bytes)
    let at = 0
    while (!this.hole) {
      const size = pageSize(data, at)
      if (size === 0 || at + size > data.length) break
      if (size < 0) this.hole = true
      else this.page(data.subarray(at, at + size))
      at += size
    }
    this.rest = data.slice(Math.max(0, at))
  }

  private page(page: Uint8Array): void {
    const view = new DataView(page.buffer, page.byteOffset, page.byteLength)
    const serial = view.getUint32(14, true)
    const number = view.getUint32(18, true)
    let crc = 0
    for (let i = 0; i < page.length; i++)
      crc =
        ((crc << 8) ^ (crcTable[((crc >>> 24) ^ (i >= 22 && i < 26 ? 0 : (page[i] ?? 0))) & 255] ?? 0)) >>> 0
    const kind = page[5] ?? 0
    // a stream may follow another under the same number
    const due = kind & FIRST_PAGE ? number : (this.next.get(serial) ?? number)
    if (crc !== view.getUint32(22, true) || number !== due) this.hole = true
    this.next.set(serial, number + 1)
    this.ended = (kind & LAST_PAGE) !== 0
  }

  fault(): string | undefined {
    if (this.hole) return HOLE
    return this.rest.length > 0 || !this.ended ? CUT : undefined
  }
}

/**
 * Bytes of the page that begins at a place; 0 where there are too few to tell, −1 where none begins there.
 */
function pageSize(data: Uint8Array, at: number): number {
  if (at + PAGE_HEAD > data.length) return 0
  if (data[at] !== 0x4f || data[at + 1] !== 0x67 || data[at + 2] !== 0x67 || data[at + 3] !== 0x53) return -1
  const segments = data[at + 26] ?? 0
  if (at + PAGE_HEAD + segments > data.length) return 0
  let size = PAGE_HEAD + segments
  for (let i = 0; i < segments; i++) size += data[at + PAGE_HEAD + i] ?? 0
  return size
}

/** Start of a file, kept to read its stated length. */
class Head {
  private bytes: Uint8Array = new Uint8Array(0)

  constructor(private readonly most: number) {}

  push(bytes: Uint8Array): void {
    if (this.bytes.length < this.most)
      this.bytes = joinedBytes(this.bytes, bytes.subarray(0, this.most - this.bytes.length))
  }

  get view(): DataView {
    return new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength)
  }
}

/** FLAC: as many frames as its first block says (RFC 9639, STREAMINFO); 0 says nothing. */
export class FlacCheck implements WholeCheck {
  private readonly head = new Head(42)

  push(bytes: Uint8Array): void {
    this.head.push(bytes)
  }

  fault(frames: number): string | undefined {
    const { view } = this.head
    if (view.byteLength < 42 || view.getUint32(0) !== 0x664c6143) return undefined
    const said = (view.getUint8(21) & 15) * 2 ** 32 + view.getUint32(22)
    if (said === 0 || frames === said) return undefined
    return `it should have ${said} frames of sound, but ${frames} can be read.`
  }
}

/** Frames that an MP3 file may have less than it says: what encoder and decoder cut off at both ends. */
const MP3_SLACK = 4 * 1152

/**
 * MP3: as long as its first frame says, where an encoder wrote that there; others say nothing of their
 * length.
 */
export class Mp3Check implements WholeCheck {
  private readonly head = new Head(1 << 18)

  push(bytes: Uint8Array): void {
    this.head.push(bytes)
  }

  fault(frames: number): string | undefined {
    const said = framesSaid(this.head.view)
    return said !== undefined && frames < said - MP3_SLACK
      ? `it should have ${said} frames of sound, but ${frames} can be read.`
      : undefined
  }
}

/** Sample frames by the information frame of an MP3 file; undefined where it has none. */
function framesSaid(view: DataView): number | undefined {
  // a tag before the sound says its own length in groups of seven bits
  const isTag = view.byteLength > 10 && view.getUint32(0) >>> 8 === 0x494433
  const at = isTag ? 10 + [6, 7, 8, 9].reduce((sum, i) => sum * 128 + (view.getUint8(i) & 127), 0) : 0
  if (at + 52 > view.byteLength || view.getUint16(at) >>> 5 !== 0x7ff) return undefined
  const isFirst = ((view.getUint8(at + 1) >> 3) & 3) === 3
  const isMono = view.getUint8(at + 3) >> 6 === 3
  const side = isFirst ? (isMono ? 17 : 32) : isMono ? 9 : 17
  const mark = view.getUint32(at + 4 + side)
  const hasFrames = (mark === 0x58696e67 || mark === 0x496e666f) && (view.getUint32(at + 8 + side) & 1) === 1
  return hasFrames ? view.getUint32(at + 12 + side) * (isFirst ? 1152 : 576) : undefined
}

function joinedBytes(a: Uint8Array, b: Uint8Array): Uint8Array {
  const all = new Uint8Array(a.length + b.length)
  all.set(a)
  all.set(b, a.length)
  return all
}
