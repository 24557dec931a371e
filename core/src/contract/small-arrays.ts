/** Bytes of a buffer that many small arrays share. */
const SHARED = 1 << 17

let shared = new ArrayBuffer(0)
let used = 0

/**
 * Places for small arrays that live as long as an engine does. An array with a buffer of its own takes the
 * browser a microsecond and is counted by its garbage collector; an engine has thousands. They must not be
 * transferred or posted, since all others would go with them.
 */
function placeFor(bytes: number): number {
  const size = (bytes + 15) & -16
  if (used + size > shared.byteLength) {
    shared = new ArrayBuffer(Math.max(SHARED, size))
    used = 0
  }
  used += size
  return used - size
}

export function smallDoubles(length: number): Float64Array {
  const at = placeFor(8 * length)
  return new Float64Array(shared, at, length)
}

export function smallFloats(length: number): Float32Array {
  const at = placeFor(4 * length)
  return new Float32Array(shared, at, length)
}
