import { z } from 'zod'
import { type Project, projectSchema } from './schema'
import { issueSentence } from './read'

/** The part of a Zod schema that describes its structure; see its documentation for library authors. */
interface Definition {
  readonly type: string
  readonly shape?: Record<string, z.ZodType>
  readonly element?: z.ZodType
  readonly innerType?: z.ZodType
  readonly getter?: () => z.ZodType
  readonly valueType?: z.ZodType
  readonly keyType?: z.ZodType
  readonly options?: readonly z.ZodType[]
  readonly discriminator?: string
  readonly checks?: readonly z.core.$ZodCheck[]
}
const definitionOf = (schema: z.ZodType): Definition =>
  (schema as unknown as { _zod: { def: Definition } })._zod.def

/**
 * What is wrong with a project that comes of an edit, by the same schema by which files are read; undefined
 * where nothing is. Only what differs from the project before is looked at: the two share what did not
 * change, so that a long line costs what was changed of it.
 */
export function invalidity(before: Project, after: Project): string | undefined {
  const issue = differing(projectSchema, before, after, [])
  return issue && issueSentence(issue, 'project')
}

type Issue = z.core.$ZodIssue
type Path = readonly PropertyKey[]

function differing(schema: z.ZodType, before: unknown, after: unknown, path: Path): Issue | undefined {
  if (before === after) return undefined
  const def = definitionOf(schema)
  switch (def.type) {
    case 'optional':
    case 'default':
      return after === undefined ? undefined : differing(def.innerType as z.ZodType, before, after, path)
    case 'nullable':
      return after === null ? undefined : differing(def.innerType as z.ZodType, before, after, path)
    case 'lazy':
      return differing((def.getter as () => z.ZodType)(), before, after, path)
    case 'object':
      return isRecord(after) ? inObject(def, before, after, path) : whole(schema, after, path)
    case 'array':
      return Array.isArray(after) ? inArray(def, before, after, path) : whole(schema, after, path)
    case 'record':
      return isRecord(after) ? inRecord(def, before, after, path) : whole(schema, after, path)
    case 'union':
      return inUnion(schema, def, before, after, path)
    default:
      return before !== undefined && whole(schema, before, path) ? undefined : whole(schema, after, path)
  }
}

function inObject(
  def: Definition,
  before: unknown,
  after: Record<string, unknown>,
  path: Path,
): Issue | undefined {
  for (const [key, inner] of Object.entries(def.shape ?? {})) {
    const issue = differing(inner, isRecord(before) ? before[key] : undefined, after[key], [...path, key])
    if (issue) return issue
  }
  return undefined
}

function inArray(def: Definition, before: unknown, after: readonly unknown[], path: Path): Issue | undefined {
  const known = new Set<unknown>(Array.isArray(before) ? before : [])
  const bounds = z.array(z.unknown()).check(...((def.checks ?? []) as z.core.$ZodCheck<unknown[]>[]))
  const issue = whole(bounds, after, path)
  // what was over before can be made less
  if (issue && !(Array.isArray(before) && whole(bounds, before, path))) return issue
  for (const [i, item] of after.entries()) {
    // what moved within the list is the same thing still
    if (typeof item === 'object' && known.has(item)) continue
    const inner = differing(def.element as z.ZodType, Array.isArray(before) ? before[i] : undefined, item, [
      ...path,
      i,
    ])
    if (inner) return inner
  }
  return undefined
}

function inRecord(
  def: Definition,
  before: unknown,
  after: Record<string, unknown>,
  path: Path,
): Issue | undefined {
  for (const [key, value] of Object.entries(after)) {
    const was = isRecord(before) && Object.hasOwn(before, key) ? before[key] : undefined
    const issue =
      (was === undefined ? whole(def.keyType as z.ZodType, key, [...path, key]) : undefined) ??
      differing(def.valueType as z.ZodType, was, value, [...path, key])
    if (issue) return issue
  }
  return undefined
}

function inUnion(
  schema: z.ZodType,
  def: Definition,
  before: unknown,
  after: unknown,
  path: Path,
): Issue | undefined {
  const { discriminator } = def
  if (discriminator === undefined || !isRecord(after)) return whole(schema, after, path)
  const option = def.options?.find((o) => {
    const tag = definitionOf(o).shape?.[discriminator]
    return tag !== undefined && tag.safeParse(after[discriminator]).success
  })
  return option ? differing(option, before, after, path) : whole(schema, after, path)
}

function whole(schema: z.ZodType, value: unknown, path: Path): Issue | undefined {
  const result = schema.safeParse(value)
  const issue = result.success ? undefined : result.error.issues[0]
  return issue && ({ ...issue, path: [...path, ...issue.path] } as Issue)
}

const isRecord = (x: unknown): x is Record<string, unknown> =>
  typeof x === 'object' && x !== null && !Array.isArray(x)
