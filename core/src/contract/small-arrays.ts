/** Bytes of a buffer that many small arrays share. */
const SHARED = 1 << 17

let shared = new ArrayBuffer(0)
let used = 0

/**
 * A small array that lives as long as an engine does, in a buffer that it shares with others. An array with a
 * buffer of its own takes the browser a microsecond and is counted by its garbage collector; an engine has
 * thousands. It must not be transferred or posted, since all others would go with it.
 */
export function smallDoubles(length: number): Float64Array {
  const at = placeFor(8 * length)
  return new Float64Array(shared, at, length)
}

/** The same in single precision. */
export function smallFloats(length: number): Float32Array {
  const at = placeFor(4 * length)
  return new Float32Array(shared, at, length)
}

/** Where so many bytes begin in the shared buffer, a new one where the last is full. */
function placeFor(bytes: number): number {
  const size = (bytes + 15) & -16
  if (used + size > shared.byteLength) {
    shared = new ArrayBuffer(Math.max(SHARED, size))
    used = 0
  }
  used += size
  return used - size
}
