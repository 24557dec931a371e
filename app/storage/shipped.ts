import type { Preset } from '@oleaje/core/project/preset'
import type { Phrase } from '@oleaje/core/render/phrase'

/** A sound that ships with Oleaje. */
export interface ShippedSound {
  readonly title: string
  readonly hash: string
  /** The name it had in older projects. */
  readonly formerly?: string
  readonly file: string
  readonly frames: number
  readonly channels: number
}

/** A chain to begin with: a track of a demo project, with its sound. */
export interface StartingChain {
  readonly name: string
  readonly tip: string
  readonly project: string
  readonly track: string
}

/** A chain of the library that ships, with what was measured of it on a phrase. */
export interface ShippedChain {
  readonly preset: Preset
  readonly phrase: Phrase
  /** Another name for the job that it does, to be found by. */
  readonly job?: string
  readonly measured: { readonly louder: number; readonly truePeak: number; readonly point: string }
}

interface Catalogue {
  readonly projects: readonly { readonly id: string; readonly name: string; readonly file: string }[]
  readonly chains?: readonly StartingChain[]
  /** The sounds that each phrase is made of, by file. */
  readonly phrases?: Readonly<Record<string, readonly string[]>>
  readonly sounds: readonly ShippedSound[]
}

/** How long a file may take to arrive, in ms. */
const PATIENCE_MS = 20_000

/**
 * The demo projects and sounds. They are plain files beside the app, so that any static host and the service
 * worker can give them. Names in projects are only ever looked up in the catalogue; none of them becomes a
 * path.
 */
export class Shipped {
  private asked: Promise<Catalogue> | null = null

  /** @param base path of the app on its host, with a slash at its end */
  constructor(private readonly base: string) {}

  /** The catalogue. A failed request is repeated. */
  catalogue(): Promise<Catalogue> {
    this.asked ??= this.file('catalogue.json')
      .then((r) => r.json() as Promise<Catalogue>)
      .catch((error: unknown) => {
        this.asked = null
        throw error
      })
    return this.asked
  }

  /** The text of a project file. @throws Error with a sentence where it cannot be had */
  async project(id: string): Promise<string> {
    try {
      const known = (await this.catalogue()).projects.find((p) => p.id === id)
      if (known) return await (await this.file(known.file)).text()
    } catch {
      /* said below */
    }
    throw new Error('The demo could not be loaded from the server.')
  }

  /** The file of a sound by its hash; undefined where none of that name ships or it cannot be had. */
  async sound(hash: string): Promise<Blob | undefined> {
    const known = (await this.catalogue()).sounds.find((s) => s.hash === hash || s.formerly === hash)
    return known && this.file(`${known.file}.wav`).then((r) => r.blob())
  }

  private asksLibrary: Promise<readonly ShippedChain[]> | null = null

  /** The chains of the library. A failed request is repeated. */
  library(): Promise<readonly ShippedChain[]> {
    this.asksLibrary ??= this.file('library.json')
      .then((r) => r.json() as Promise<ShippedChain[]>)
      .catch((error: unknown) => {
        this.asksLibrary = null
        throw error
      })
    return this.asksLibrary
  }

  /** Hashes of the sounds that a phrase is made of; none for a test tone. */
  async phrase(name: Phrase): Promise<string[]> {
    const { phrases, sounds } = await this.catalogue()
    return (phrases?.[name] ?? []).flatMap((file) => sounds.find((s) => s.file === file)?.hash ?? [])
  }

  private async file(name: string): Promise<Response> {
    const response = await fetch(`${this.base}demo/${name}`, { signal: AbortSignal.timeout(PATIENCE_MS) })
    // a static host may answer with its page where there is no such file
    if (!response.ok || response.headers.get('content-type')?.startsWith('text/html'))
      throw new Error(`${name} was not found.`)
    return response
  }
}
