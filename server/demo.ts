import { useStorage } from 'nitropack/runtime'

export interface Catalogue {
  readonly projects: readonly { readonly id: string; readonly name: string; readonly file: string }[]
  readonly sounds: readonly {
    readonly file: string
    readonly title: string
    readonly hash: string
    /** The name it had in older projects. */
    readonly formerly?: string
    readonly frames: number
    readonly channels: number
  }[]
}

let known: Catalogue | undefined

/** What the demo has. Names from a client are only ever looked up in here; none of them becomes a path. */
export async function catalogue(): Promise<Catalogue> {
  known ??= JSON.parse(await demoText('catalogue.json')) as Catalogue
  return known
}

export async function demoBytes(file: string): Promise<Uint8Array> {
  const raw: unknown = await useStorage('assets:demo').getItemRaw(file)
  if (raw instanceof Uint8Array) return raw
  if (typeof raw === 'string') return new TextEncoder().encode(raw)
  if (raw instanceof ArrayBuffer) return new Uint8Array(raw)
  return new TextEncoder().encode(JSON.stringify(raw))
}

export const demoText = async (file: string): Promise<string> => new TextDecoder().decode(await demoBytes(file))
