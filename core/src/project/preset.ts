import { z } from 'zod'
import { chainSchema, linkSchema, modulatorSchema } from './schema'

/** A chain kept by itself, with every modulator and link that touches it. */
export const presetSchema = z.object({
  format: z.literal('oleaje-preset'),
  version: z.literal(1),
  name: z.string().max(120),
  tags: z.array(z.string().max(40)).max(20),
  chain: chainSchema,
  modulators: z.array(modulatorSchema).max(128),
  links: z.array(linkSchema).max(1024),
})
