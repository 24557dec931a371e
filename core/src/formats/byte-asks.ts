import { AudioFormatError } from './audio-file'

/** Parts that a file may have before its sound, more than any program writes. */
const MOST_ASKS = 65_536

/** Bytes of a file that a parser asks for. It is given as many of them as there are. */
export interface ByteAsk {
  readonly at: number
  readonly length: number
}

/** A parser that asks for the bytes it needs, so that files may be in memory or be read piece by piece. */
export type AskingParser<T> = Generator<ByteAsk, T, Uint8Array>

/** A file that is read in pieces. */
export interface ByteSource {
  readonly size: number
  /** Bytes `from` to `to`, as far as there are any. */
  read(from: number, to: number): Promise<Uint8Array>
}

/** A file in memory, as one that is read in pieces. */
export const bytesInMemory = (file: Uint8Array): ByteSource => ({
  size: file.length,
  read: (from, to) => Promise.resolve(file.subarray(from, to)),
})

/** Lets a parser work on a file in memory. */
export function parseIn<T>(file: Uint8Array, parser: AskingParser<T>): T {
  let step = parser.next()
  for (let asks = 0; !step.done; asks++) {
    checkAsks(asks)
    step = parser.next(file.subarray(step.value.at, step.value.at + step.value.length))
  }
  return step.value
}

/** Lets a parser work on a file that is read in pieces. */
export async function parseFrom<T>(file: ByteSource, parser: AskingParser<T>): Promise<T> {
  let step = parser.next()
  for (let asks = 0; !step.done; asks++) {
    checkAsks(asks)
    const { at, length } = step.value
    step = parser.next(await file.read(at, Math.min(file.size, at + length)))
  }
  return step.value
}

function checkAsks(asks: number): void {
  if (asks > MOST_ASKS)
    throw new AudioFormatError('This file is damaged: it has too many parts for a sound file.')
}
