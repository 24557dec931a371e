interface WasmModule { readonly brand?: 'module' }
interface Wasm {
  Module: new (bytes: Uint8Array) => WasmModule
  Memory: new (o: { initial: number }) => { readonly buffer: ArrayBuffer }
  Instance: new (module: WasmModule, imports: object) => { readonly exports: unknown }
}

const wasm = (): Wasm => (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly
const kernels: Kernel<unknown>[] = []

/** The SIMD twins of some loops, of one source; compiled once, when first wanted. `Twins` are the functions it exports. */
export class Kernel<Twins> {
  private compiled: WasmModule | null | undefined
  /** Never set; ties the kernel to its functions. */
  declare readonly twins?: Twins

  /** @param bytes the module in base64 */
  constructor(private readonly bytes: string) { kernels.push(this) }

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

/** Compiles all kernels now, and not when the first effect that wants one is added to what plays. */
export function compileKernels(): void { for (const k of kernels) k.module() }

/**
 * Memory that both TypeScript loops and their SIMD twins work on: arrays are laid out in it one after the other and live
 * as long as it does. Where there is no SIMD, plain arrays are given and `twins` is null; the bits are the same.
 */
export class KernelMemory<Twins> {
  readonly twins: Twins | null
  private readonly buffer: ArrayBuffer | null
  private used = 0

  /** @param bytes how much all arrays together take, each rounded up to 16 */
  constructor(kernel: Kernel<Twins>, bytes: number) {
    const code = kernel.module()
    if (!code) {
      this.twins = null
      this.buffer = null
      return
    }
    const memory = new (wasm().Memory)({ initial: Math.ceil(bytes / 65536) })
    this.twins = new (wasm().Instance)(code, { o: { memory } }).exports as Twins
    this.buffer = memory.buffer
  }

  doubles(length: number): Float64Array {
    return this.buffer ? new Float64Array(this.buffer, this.take(length * 8), length) : new Float64Array(length)
  }

  floats(length: number): Float32Array {
    return this.buffer ? new Float32Array(this.buffer, this.take(length * 4), length) : new Float32Array(length)
  }

  ints(length: number): Int32Array {
    return this.buffer ? new Int32Array(this.buffer, this.take(length * 4), length) : new Int32Array(length)
  }

  private take(bytes: number): number {
    const at = this.used
    this.used += (bytes + 15) & -16
    return at
  }
}

/** Base64 to bytes; worklets have no `atob`. */
function bytesOf(text: string): Uint8Array {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
  const clean = text.replace(/=+$/, '')
  const out = new Uint8Array(Math.floor(clean.length * 3 / 4))
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
