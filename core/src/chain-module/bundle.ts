import type { ChainExport } from './chain-export'

/** Core and the module’s own code as text, by path below the sources, and where each built-in part is. */
export interface ChainParts {
  readonly code: Readonly<Record<string, string>>
  readonly effects: PartPlaces
  readonly modulators: PartPlaces
  readonly sources: PartPlaces
  /** A page that plays a module. */
  readonly page: string
}
/** File and name of a part, by its id. */
export type PartPlaces = Readonly<Record<string, { readonly file: string; readonly name: string }>>

/** As much of a bundler as is needed. */
export interface Bundler {
  (options: {
    readonly input: string
    readonly plugins: readonly unknown[]
    readonly onwarn: () => void
  }): Promise<{
    generate(options: { readonly format: 'es'; readonly compact: boolean }): Promise<{
      readonly output: readonly { readonly code?: string; readonly imports?: readonly string[] }[]
    }>
  }>
}

/** The first file of the module. */
const ENTRY = 'app/chain-module/module'
const DATA = 'oleaje:chain'
/** Packages that a module does without: its one project needs no checks, and nothing new is made in it. */
const packages: Readonly<Record<string, string>> = {
  nanoid: `export const customAlphabet = () => () => ''
export const nanoid = () => ''`,
  zod: `const any = new Proxy(function () {}, {
  get: (_, key) => (key === Symbol.toPrimitive ? () => '' : key === Symbol.iterator ? undefined : any),
  apply: () => any,
  construct: () => any,
})
export const z = any
export default any`,
}

/** A sound as the module holds it: 32-bit floats of each side as base64. */
export interface PackedSound {
  readonly sampleRate: number
  readonly channels: readonly string[]
}

/**
 * One ES module that plays a chain, with the effects, modulators and sources that it uses and no others.
 * @param bundle joins modules into one
 */
export async function bundleChain(
  bundle: Bundler,
  parts: ChainParts,
  chain: ChainExport,
  sounds: Readonly<Record<string, PackedSound>>,
): Promise<string> {
  const { effects, modulators } = chain
  // a morph moves others by way of links, and a chain without modulators needs none
  const lists: Record<string, string> = {
    'core/effects/built-in': listOf('effectsBuiltIn', parts.effects, effects),
    'core/modulators/built-in': listOf('modulatorsBuiltIn', parts.modulators, modulators),
    'core/sources/built-in': listOf('sourcesBuiltIn', parts.sources, chain.sources, [
      { file: 'core/chain-module/feed', name: 'feedSource' },
    ]),
  }
  const code = (id: string): string | undefined =>
    id === DATA
      ? `export const chain = ${JSON.stringify(chain.data)}\nexport const sounds = ${JSON.stringify(sounds)}`
      : (lists[id] ?? packages[id] ?? parts.code[id])
  const { generate } = await bundle({
    input: ENTRY,
    onwarn: () => {},
    plugins: [
      {
        name: 'parts',
        resolveId: (asked: string, from: string | undefined): string | object => {
          const id = from === undefined ? asked : pathFrom(from, asked)
          // packages are left out: none of what needs them may be part of what plays
          return code(id) === undefined ? { id, external: true, moduleSideEffects: false } : id
        },
        load: (id: string): { code: string; moduleSideEffects: boolean } | null => {
          const text = code(id)
          // nothing in core does anything by being loaded alone
          return text === undefined ? null : { code: text, moduleSideEffects: id === ENTRY }
        },
      },
    ],
  })
  const { output } = await generate({ format: 'es', compact: true })
  const [first] = output
  if (!first?.code || first.imports?.length)
    throw new Error(`The module could not be put together: ${first?.imports?.join(', ') ?? 'no code'}.`)
  return first.code
}

/** A list of built-in parts that has these only. */
function listOf(
  name: string,
  places: PartPlaces,
  ids: readonly string[],
  more: readonly { readonly file: string; readonly name: string }[] = [],
): string {
  const used = [...ids.flatMap((id) => places[id] ?? []), ...more]
  const lines = used.map((p, i) => `import { ${p.name} as p${i} } from '/${p.file}'`)
  return `${lines.join('\n')}\nexport const ${name} = [${used.map((_, i) => `p${i}`).join(', ')}]`
}

/** Where an import leads: from one file to another, from the root with a slash, or to core by its name. */
function pathFrom(from: string, asked: string): string {
  if (asked.startsWith('@oleaje/core/')) return `core/${asked.slice('@oleaje/core/'.length)}`
  if (asked.startsWith('/')) return asked.slice(1)
  if (!asked.startsWith('.')) return asked
  const way = from.split('/').slice(0, -1)
  for (const step of asked.split('/')) {
    if (step === '..') way.pop()
    else if (step !== '.') way.push(step)
  }
  return way.join('/')
}
