import { z } from 'zod'

/** Widths of smoothing in octaves; 0 for none. */
export const smoothings = [0, 1 / 24, 1 / 12, 1 / 6, 1 / 3] as const

/** How a chain is measured. Not all of it matters for every measurement. */
export const labSettingsSchema = z.object({
  /** Peak of the test signal in dBFS. */
  level: z.number().min(-80).max(12).default(-12),
  /** Frequency of test tones in Hz. */
  frequency: z.number().min(20).max(20_000).default(997),
  /** Seconds that are shown or listened to. */
  seconds: z.number().min(0.01).max(20).default(4),
  /** Width in octaves over which a response is smoothed. */
  smoothing: z
    .number()
    .min(0)
    .max(1 / 3)
    .default(0),
  /** Whether modulators stand still where they are at a moment of the song, or run from its start. */
  modulation: z.enum(['frozen', 'running']).default('frozen'),
  /** The moment in beats. */
  moment: z.number().min(0).max(1_000_000).default(0),
})

export type LabSettings = z.infer<typeof labSettingsSchema>

export const usualLabSettings: LabSettings = labSettingsSchema.parse({})
