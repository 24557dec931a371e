import { wasmBytes } from './folded-sums.wasm'

interface Twins {
  foldedSums(taps: number, pairs: number, rising: number, falling: number, out: number, frames: number): void
  interleave(a: number, b: number, out: number, frames: number): void
  part(input: number, a: number, b: number, frames: number): void
  shapeRound(x: number, frames: number, state: number): void
}

interface WasmModule { readonly brand?: 'module' }
interface Wasm {
  Module: new (bytes: Uint8Array) => WasmModule
  Memory: new (o: { initial: number }) => { readonly buffer: ArrayBuffer }
  Instance: new (module: WasmModule, imports: object) => { readonly exports: unknown }
}

let compiled: WasmModule | null | undefined

/** The module, compiled once; null where WebAssembly or its SIMD is missing or forbidden. */
function module(): WasmModule | null {
  if (compiled !== undefined) return compiled
  try {
    const wasm = (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly
    compiled = new wasm.Module(bytesOf(wasmBytes))
  } catch {
    compiled = null
  }
  return compiled
}

/**
 * Memory that both the TypeScript kernels and their SIMD twins work on: arrays are laid out in it one after the other
 * and live as long as it does. Where there is no SIMD, plain arrays are given and `twins` is null; the bits are the same.
 */
export class FirMemory {
  readonly twins: Twins | null
  private readonly buffer: ArrayBuffer | null
  private used = 0

  /** @param doubles how many numbers all arrays together will hold */
  constructor(doubles: number) {
    const code = module()
    if (!code) {
      this.twins = null
      this.buffer = null
      return
    }
    const wasm = (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly
    const memory = new wasm.Memory({ initial: Math.ceil(doubles * 8 / 65536) })
    this.twins = new wasm.Instance(code, { o: { memory } }).exports as Twins
    this.buffer = memory.buffer
  }

  array(length: number): Float64Array {
    if (!this.buffer) return new Float64Array(length)
    const at = this.used
    this.used += length * 8
    return new Float64Array(this.buffer, at, length)
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
