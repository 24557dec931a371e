import { z } from 'zod'
import { type LimitName, limits } from '../limits'

/** Pieces that the schemas of projects, nodes and presets share. */
/** Names that every object has, so that none of ours can be told from them. */
const everywhere: object = Object.prototype
const isOwn = (text: string): boolean => !(text in everywhere)
/** A name by which something is looked up. */
export const key = (most: number): z.ZodString =>
  z
    .string()
    .max(most)
    .refine(isOwn, { error: (issue) => `“${String(issue.input)}” cannot be a name here` })
export const id = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,40}$/, 'an id has 1 to 40 letters, digits, - or _')
  .refine(isOwn, 'this id has a meaning of its own')
export const name = z.string().max(120)
export const finite = z.number()
export const values = z.record(key(40), finite)
/** At most as many items as a limit says, told in its sentence. */
export const atMost = <T extends z.ZodType>(array: z.ZodArray<T>, name: LimitName): z.ZodArray<T> =>
  array.max(limits[name].most, limits[name].sentence)
/** A place in the song, in quarter notes. */
export const beat = finite.min(0).max(limits.beats.most, limits.beats.sentence)
export const lanes = z.record(key(40), atMost(z.array(values), 'laneItems'))
/** Drawn shapes, poses, tables: opaque here, checked by the definition that owns them. */
export const data = z.record(key(40), z.json())

/** A sound to listen to: a track before or after its chain, or a branch of one. */
export const listenSchema = z.object({
  track: id,
  point: z.enum(['before', 'after']),
  branch: id.optional(),
})

/**
 * Seed of all that is random in a node, a modulator or a source; travels with it, so that it sounds the same
 * elsewhere.
 */
export const seed = z.number().int().min(0).max(0xffffffff).optional()

export type Listen = z.infer<typeof listenSchema>
