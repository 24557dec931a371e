interface WasmModule {
  readonly brand?: 'module'
}
interface Wasm {
  Module: new (bytes: Uint8Array) => WasmModule
  Memory: new (o: { initial: number }) => { readonly buffer: ArrayBuffer }
  Instance: new (module: WasmModule, imports: object) => { readonly exports: unknown }
}

const wasm = (): Wasm => (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly
const kernels: SimdKernel<unknown>[] = []

/**
 * The SIMD kernels of some loops, of one source; compiled once, when first wanted. `KernelExports` are the
 * functions it exports.
 */
export class SimdKernel<KernelExports> {
  private compiled: WasmModule | null | undefined
  /** Never set; ties the kernel to its functions. */
  declare readonly simd?: KernelExports

  /** @param bytes the module in base64 */
  constructor(private readonly bytes: string) {
    kernels.push(this)
  }

  /** The module; null where WebAssembly or its SIMD is missing or forbidden. */
  module(): WasmModule | null {
    if (this.compiled !== undefined) return this.compiled
    try {
      this.compiled = new (wasm().Module)(bytesOf(this.bytes))
    } catch {
      this.compiled = null
    }
    return this.compiled
  }
}

/**
 * Compiles all kernels and prepares memory for some effects while no block is due: a new memory can
 * take the browser some milliseconds, since it may collect garbage first.
 */
export function prepareKernels(): void {
  for (const k of kernels) k.module()
  if (arena && arena.free >= ARENA / 2) return
  const made = newArena(ARENA)
  if (!made) return
  arena = made
  for (const k of kernels) if (k.module()) made.exportsOf(k)
}

/**
 * Bytes of an arena. Browsers give a process little more than a hundred memories, since each takes ten
 * gigabytes of addresses, but do not mind how large they are: what is not used takes no room. So many effects
 * share one.
 */
const ARENA = 256 << 20
/** Bytes of an arena that are kept for tables. */
const TABLES = 1 << 20

type Table = Float32Array | Float64Array

/** One memory, given out from its front; it goes when all that lies in it is gone. */
class Arena {
  readonly buffer: ArrayBuffer
  private readonly memory: { readonly buffer: ArrayBuffer }
  private readonly instances = new Map<SimdKernel<unknown>, unknown>()
  private readonly tables = new Map<Table, Table>()
  private used = TABLES
  private usedByTables = 0

  constructor(bytes: number) {
    this.memory = new (wasm().Memory)({ initial: Math.ceil(bytes / 65536) })
    this.buffer = this.memory.buffer
  }

  get free(): number {
    return this.buffer.byteLength - this.used
  }

  /** The one copy of a table for all effects that lie here. */
  table<T extends Table>(values: T): T {
    let copy = this.tables.get(values)
    if (copy) return copy as T
    if (this.usedByTables + values.byteLength > TABLES)
      throw new Error('There are more tables than an arena has room for.')
    const Kind = values.constructor as Float64ArrayConstructor
    copy = new Kind(this.buffer, this.usedByTables, values.length)
    copy.set(values)
    this.usedByTables += (values.byteLength + 15) & -16
    this.tables.set(values, copy)
    return copy as T
  }

  /** The place of so many bytes; −1 where there is no room. */
  reserve(bytes: number): number {
    const at = this.used
    if (bytes > this.free) return -1
    this.used += bytes
    return at
  }

  exportsOf(kernel: SimdKernel<unknown>): unknown {
    let found = this.instances.get(kernel)
    if (!found)
      this.instances.set(
        kernel,
        (found = new (wasm().Instance)(kernel.module() as WasmModule, { env: { memory: this.memory } })
          .exports),
      )
    return found
  }
}

let arena: Arena | null = null

/**
 * Memory that both TypeScript loops and their SIMD kernels work on: arrays are laid out in it one after the
 * other and live as long as it does. Where there is no SIMD, or no memory for it, plain arrays are given and
 * `simd` is null; the bits are the same.
 */
export class KernelMemory<KernelExports> {
  readonly simd: KernelExports | null
  private readonly arena: Arena | null
  private at = 0
  private readonly end: number

  /** @param bytes how much all arrays together take at most, each rounded up to 16 */
  constructor(kernel: SimdKernel<KernelExports>, bytes: number) {
    const size = (bytes + 15) & -16
    const found = kernel.module() ? arenaFor(size) : null
    this.arena = found?.arena ?? null
    this.at = found?.at ?? 0
    this.end = this.at + size
    this.simd = found ? (found.arena.exportsOf(kernel as SimdKernel<unknown>) as KernelExports) : null
  }

  doubles(length: number): Float64Array {
    return this.arena
      ? new Float64Array(this.arena.buffer, this.take(length * 8), length)
      : new Float64Array(length)
  }

  floats(length: number): Float32Array {
    return this.arena
      ? new Float32Array(this.arena.buffer, this.take(length * 4), length)
      : new Float32Array(length)
  }

  ints(length: number): Int32Array {
    return this.arena
      ? new Int32Array(this.arena.buffer, this.take(length * 4), length)
      : new Int32Array(length)
  }

  /** A table as it is, where the simd can read it. */
  table<T extends Table>(values: T): T {
    return this.arena ? this.arena.table(values) : values
  }

  private take(bytes: number): number {
    const { at } = this
    this.at += (bytes + 15) & -16
    if (this.at > this.end) throw new Error('More arrays were asked of a kernel memory than it was made for.')
    return at
  }
}

/** Room in the arena at hand or in a new one; null where the browser gives no more memory. */
function arenaFor(bytes: number): { arena: Arena; at: number } | null {
  let at = arena ? arena.reserve(bytes) : -1
  if (arena && at >= 0) return { arena, at }
  const made = newArena(Math.max(ARENA, bytes + TABLES))
  if (!made) return null
  arena = made
  at = made.reserve(bytes)
  return { arena: made, at }
}

function newArena(bytes: number): Arena | null {
  try {
    return new Arena(bytes)
  } catch {
    return null
  }
}

/** Base64 to bytes; worklets have no `atob`. */
function bytesOf(text: string): Uint8Array {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
  const clean = text.replace(/=+$/, '')
  const out = new Uint8Array(Math.floor((clean.length * 3) / 4))
  let bits = 0
  let held = 0
  let at = 0
  for (const c of clean) {
    held = (held << 6) | letters.indexOf(c)
    bits += 6
    if (bits >= 8) {
      bits -= 8
      out[at++] = (held >> bits) & 255
    }
  }
  return out
}
