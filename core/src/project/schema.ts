import { z } from 'zod'
import { type ChainNode, nodeSchemaOf } from './nodes/index'
import { limits } from '../limits'
import { atMost, beat, data, finite, id, key, lanes, listenSchema, name, seed, values } from './schema-parts'

/** Version of the file format that this program writes. Older files are brought up by `migrate`. */
export const PROJECT_VERSION = 2

const nodes: z.ZodType<ChainNode[]> = z.lazy(() => atMost(z.array(nodeSchema), 'nodes'))

/** A node of a chain: an effect or a container, of any of the registered kinds. */
export const nodeSchema: z.ZodType<ChainNode> = nodeSchemaOf(nodes)

export const chainSchema = z.object({ nodes })

export const modulatorSchema = z.object({
  id,
  type: key(40),
  name,
  /** Letter of the badge, unique within the project while letters last. */
  letter: z.string().max(3),
  /** One of eight hues, 0…7. */
  hue: z.number().int().min(0).max(7),
  params: values,
  seed,
  lanes: lanes.optional(),
  data: data.optional(),
  listens: listenSchema.nullable().default(null),
  /** Outputs of other modulators that it works on: the two of a combination, or the gate that starts it. */
  inputs: z
    .array(z.object({ source: id, output: key(40) }).nullable())
    .max(4)
    .default([]),
})

/**
 * Where the values of a link may stand: on so many steps of the range, or on notes of a scale from a root (0
 * for C).
 */
export const quantiseSchema = z.discriminatedUnion('to', [
  z.object({ to: z.literal('steps'), steps: z.number().int().min(1).max(256) }),
  z.object({
    to: z.literal('scale'),
    scale: z.number().int().min(0).max(63),
    root: z.number().int().min(0).max(11),
  }),
])

export const targetSchema = z.object({
  owner: id,
  param: key(40),
  lane: key(40).optional(),
  index: z.number().int().min(0).max(63).optional(),
})

export const linkSchema = z.object({
  id,
  /** Modulator and the name of its output. */
  source: id,
  output: key(40),
  /**
   * Owner (effect, container, branch, modulator, track, source of a track, or link) and its parameter; for
   * one of a lane also which, or no index for all of them.
   */
  target: targetSchema,
  /** Places on the target's range: 0…1 for fixed, distances −1…1 from the base for floating. */
  from: finite.min(-1).max(1),
  to: finite.min(-1).max(1),
  /** `pitch`: the target follows the note of a `pitch` output one-to-one. */
  mode: z.enum(['floating', 'fixed', 'pitch']),
  /** Semitones added in pitch mode. */
  transpose: finite.min(-96).max(96).default(0),
  amount: finite.min(0).max(1).default(1),
  /** Bend of the way from `from` to `to`, −1…1; 0 is straight. */
  curve: finite.min(-1).max(1).default(0),
  /**
   * Whether the way between the ends is even on the parameter's own scale, or in its unit: a sine of
   * milliseconds.
   */
  law: z.enum(['scale', 'unit']).default('scale'),
  quantise: quantiseSchema.nullable().default(null),
  /** Seconds. */
  slewUp: finite.min(0).max(10).default(0),
  slewDown: finite.min(0).max(10).default(0),
  /**
   * Over a lane: cycles of phase, octaves of rate and share of random place between the first and the last
   * index.
   */
  fan: z
    .object({ phase: finite.min(-8).max(8), rate: finite.min(-4).max(4), random: finite.min(0).max(1) })
    .nullable()
    .default(null),
  /** Of the random places of a fan; without one they follow from the id. */
  seed,
  on: z.boolean().default(true),
})

export const sourceSchema = z.object({
  id,
  type: key(40),
  params: values,
  seed,
  lanes: lanes.optional(),
  data: data.optional(),
  /** Content hash of the audio it plays. */
  audio: key(128).nullable().default(null),
  /** Simulated line or a real device, for live input. */
  device: z.string().max(200).optional(),
  /** The track it hears, for one that plays another. */
  listens: listenSchema.nullable().optional(),
})

export const snapshotSchema = z.object({ id, name, values: z.record(key(100), finite) })

/** Start and length in quarter notes, pitch as a MIDI note number, velocity 0…1. */
export const noteSchema = z.object({
  start: beat,
  length: beat,
  pitch: finite.min(0).max(127),
  velocity: finite.min(0).max(1),
})

const pointSchema = z.object({ x: beat, y: finite.min(0).max(1), bend: finite.min(-1).max(1) })

/** Shortest round of a note line in quarter notes. */
export const LEAST_LINE = 1 / 64

/**
 * Notes that repeat after `length` quarter notes, or for 0 play once; bend (½ is none) and pressure as drawn
 * shapes over beats.
 */
export const noteLineSchema = z.object({
  length: beat.refine((x) => x === 0 || x >= LEAST_LINE, {
    error: `the length of a line is 0, or at least ${LEAST_LINE} quarter notes`,
    params: { nearest: LEAST_LINE },
  }),
  notes: atMost(z.array(noteSchema), 'notes'),
  bend: atMost(z.array(pointSchema), 'points').default([]),
  pressure: atMost(z.array(pointSchema), 'points').default([]),
})

export const arpeggioOrders = ['up', 'down', 'to-and-fro', 'as played', 'random', 'chord'] as const

/**
 * Plays held notes one after the other: the length of a step in quarter notes, gate and swing as shares of
 * it.
 */
export const arpeggioSchema = z.object({
  on: z.boolean().default(true),
  order: z.enum(arpeggioOrders).default('up'),
  octaves: z.number().int().min(1).max(5).default(1),
  step: finite
    .min(1 / 64)
    .max(16)
    .default(0.25),
  gate: finite.min(0.02).max(4).default(0.8),
  swing: finite.min(0).max(0.75).default(0),
  hold: z.boolean().default(false),
  /** A round of steps: semitones added, and a factor on the velocity; 0 leaves the step out. */
  steps: z
    .array(z.object({ transpose: z.number().int().min(-48).max(48), velocity: finite.min(0).max(2) }))
    .max(64)
    .default([]),
})

/**
 * A recording of a track: what went into its chain and what came out, both from the same beat of the song on.
 */
export const takeSchema = z.object({ id, name, at: beat, dry: key(128), wet: key(128) })

/**
 * How a track came to be that was printed: from which track (null for the mix), through what, with its tail,
 * and whether in its place.
 */
export const printSchema = z.object({
  of: id.nullable(),
  chain: z.string().max(1000),
  tail: z.enum(['folded', 'kept']),
  inPlace: z.boolean(),
})

export const trackSchema = z.object({
  id,
  name,
  /**
   * The last track of a project is the mix, where all others end; a bus has no source but what goes to it.
   */
  kind: z.enum(['track', 'bus', 'mix']),
  /** The bus it goes to; without one, the mix, or null for nowhere but along its sends. */
  output: id.nullable().optional(),
  source: sourceSchema.nullable(),
  /** `level` in dB, `pan` −1…1, `mute`. */
  params: values,
  /** The two whole states of the chain. `b` is null until it is first used. */
  a: chainSchema,
  b: chainSchema.nullable().default(null),
  heard: z.enum(['a', 'b']).default('a'),
  modulators: atMost(z.array(modulatorSchema), 'modulators'),
  snapshots: z.array(snapshotSchema).max(64).default([]),
  line: noteLineSchema.nullable().default(null),
  arpeggio: arpeggioSchema.nullable().optional(),
  print: printSchema.optional(),
  takes: atMost(z.array(takeSchema), 'takes').optional(),
  /** Seconds that its line plays late; negative for early. */
  noteOffset: finite.min(-0.05).max(0.05).optional(),
})

/** A send from a track or a branch to a bus, before or after its fader: `level` in dB, `on`. */
export const sendSchema = z.object({
  id,
  from: id,
  to: id,
  before: z.boolean().default(false),
  params: values,
})

/**
 * A control of a device, or a key of the computer, and what it steers. `number` of a 14-bit control is its
 * coarse half.
 */
export const controlSchema = z.object({
  id,
  message: z.object({
    kind: z.enum(['cc', 'cc14', 'bend', 'pressure', 'note', 'key']),
    channel: z.number().int().min(0).max(15),
    number: z.number().int().min(0).max(127),
    key: z.string().max(20).optional(),
  }),
  target: targetSchema,
  /** Waits until the control passes the value instead of jumping to where it stands. */
  pickUp: z.boolean().default(true),
})

/** A measurement of a chain that was kept, to be repeated: what was measured, how, and the curves it gave. */
export const keptMeasurementSchema = z.object({
  id,
  name,
  kind: key(40),
  track: id,
  scope: key(20),
  node: id.optional(),
  settings: z.record(key(40), z.union([finite, z.string().max(40)])),
  curves: z
    .array(
      z.object({
        chart: key(40),
        name: z.string().max(80),
        x: z.array(finite).max(limits.measurementPoints.most),
        /** Null for a gap. */
        y: z.array(finite.nullable()).max(limits.measurementPoints.most),
      }),
    )
    .max(64),
})

export const audioRefSchema = z.object({
  name: z.string().max(200),
  frames: z.number().int().positive(),
  channels: z.number().int().min(1).max(2),
  sampleRate: finite.positive(),
})

export const projectSchema = z.object({
  format: z.literal('oleaje-project'),
  version: z.literal(PROJECT_VERSION),
  id,
  name,
  seed: z.number().int().min(0).max(0xffffffff),
  sampleRate: z.number().int().min(44_100).max(96_000),
  tempo: finite.min(20).max(300),
  beatsPerBar: z.number().int().min(1).max(32),
  loop: z.object({ on: z.boolean(), start: beat, end: beat }),
  tracks: atMost(z.array(trackSchema).min(1), 'tracks'),
  links: atMost(z.array(linkSchema), 'links'),
  sends: atMost(z.array(sendSchema), 'sends').default([]),
  sections: z
    .array(z.object({ id, name, start: beat, end: beat }))
    .max(limits.sections.most, limits.sections.sentence)
    .default([]),
  controls: atMost(z.array(controlSchema), 'controls').default([]),
  snapshots: z.array(snapshotSchema).max(64).default([]),
  /** What the dice leave alone: ids of effects, branches and modulators, and gauges by owner and path. */
  locks: z.array(key(100)).max(2000).optional(),
  /** Measurements of the Lab that were kept. */
  measurements: atMost(z.array(keptMeasurementSchema), 'measurements').optional(),
  audio: z.record(key(128), audioRefSchema),
})

export type Project = z.infer<typeof projectSchema>
export type Track = z.infer<typeof trackSchema>
export type Chain = z.infer<typeof chainSchema>
export type { ChainNode } from './nodes/index'
export type { Effect } from './nodes/effect'
export type { Branch } from './nodes/node-kind'
export type { Split } from './nodes/split'
export type { Group } from './nodes/group'
export type { LoopBack } from './nodes/loop-back'
export type Modulator = z.infer<typeof modulatorSchema>
export type Link = z.infer<typeof linkSchema>
export type Source = z.infer<typeof sourceSchema>
export type { Listen } from './schema-parts'
export type Target = Link['target']
export type Quantise = NonNullable<Link['quantise']>
export type NoteLine = z.infer<typeof noteLineSchema>
export type Arpeggio = z.infer<typeof arpeggioSchema>
export type Note = z.infer<typeof noteSchema>
export type Control = z.infer<typeof controlSchema>
export type Send = z.infer<typeof sendSchema>
export type Snapshot = z.infer<typeof snapshotSchema>
export type Take = z.infer<typeof takeSchema>
export type KeptMeasurement = z.infer<typeof keptMeasurementSchema>
export type Print = z.infer<typeof printSchema>
export type Section = Project['sections'][number]
