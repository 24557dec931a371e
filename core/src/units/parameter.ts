/**
 * How a parameter's value is written for people. Values are kept in seconds, Hz, cycles, beats and factors
 * inside.
 */
export type Unit =
  | 'hertz'
  | 'seconds'
  | 'decibel'
  | 'percent'
  | 'semitones'
  | 'octaves'
  | 'degrees'
  | 'ratio'
  | 'factor'
  | 'amount'
  | 'beats'
  | 'pan'
  | 'tempo'
  | 'number'
  | 'note'
  | 'choice'
  | 'toggle'
/**
 * How the range of a parameter is divided: evenly, by ratio, by squares (fine near the low end, reaching 0),
 * or by cubes about its middle (fine on both sides of 0).
 */
export type Law = 'linear' | 'log' | 'square' | 'cube'

/**
 * How an edit of a parameter reaches the sound without a click: its value glides; or it is switched, and
 * the processor crossfades between both states; or it jumps, and the engine joins what was heard to
 * what comes (on, mute: switched; choices and loop marks: exchanged).
 */
export type EditPolicy = 'continuous' | 'switched' | 'exchanged'

export interface ParamSpec {
  readonly name: string
  readonly tip: string
  readonly unit: Unit
  readonly law: Law
  readonly min: number
  readonly max: number
  readonly default: number
  /** A level in dB that processors receive as a linear factor; its lowest place is silence. */
  readonly gain: boolean
  /** Names of the values 0, 1, 2 … of a choice. */
  readonly choices?: readonly string[]
  /** Names of the places 0, 1, 2 … that a number glides through. */
  readonly places?: readonly string[]
  /** The word for 0 where that is no length or count: off, all. */
  readonly zero?: string
  /** Time in which an edited value glides to its new place, in seconds; choices and toggles do not glide. */
  readonly glide: number
  readonly edit: EditPolicy
  /** How far a new link reaches; `whole` for a gate, which must cross its threshold. */
  readonly first?: 'whole'
  /** Has a button that sets it to its maximum while it is pressed. */
  readonly momentary?: true
}

export type ParamSpecs = Readonly<Record<string, ParamSpec>>

interface Numbers {
  min: number
  max: number
  default: number
  law?: Law
  glide?: number
  tip?: string
  edit?: EditPolicy
  first?: 'whole'
  momentary?: true
  places?: readonly string[]
  zero?: string
}

const spec = (unit: Unit, law: Law, name: string, o: Numbers, more: Partial<ParamSpec> = {}): ParamSpec => ({
  name,
  tip: o.tip ?? '',
  unit,
  law: o.law ?? law,
  min: o.min,
  max: o.max,
  default: o.default,
  gain: false,
  glide: o.glide ?? 0.01,
  edit: o.edit ?? 'continuous',
  ...(o.first ? { first: o.first } : {}),
  ...(o.momentary ? { momentary: true } : {}),
  ...(o.places ? { places: o.places } : {}),
  ...(o.zero ? { zero: o.zero } : {}),
  ...more,
})

export const hertz = (name: string, o: Numbers): ParamSpec => spec('hertz', 'log', name, o)
export const seconds = (name: string, o: Numbers): ParamSpec =>
  spec('seconds', o.min > 0 ? 'log' : 'square', name, o)
/** A level in dB as such (thresholds, makeup in the log domain). */
export const decibel = (name: string, o: Numbers): ParamSpec => spec('decibel', 'linear', name, o)
/** A level in dB that is a linear factor inside; `min` stands for silence. */
export const gain = (name: string, o: Numbers): ParamSpec =>
  spec('decibel', 'linear', name, o, { gain: true })
/** A level in dB that is a linear factor inside, with no silence at its low end. */
export const boost = (name: string, o: Numbers): ParamSpec =>
  spec('decibel', 'linear', name, o, { gain: true })
export const percent = (name: string, o: Partial<Numbers> & { default: number }): ParamSpec =>
  spec('percent', 'linear', name, { min: 0, max: 1, ...o })
export const semitones = (name: string, o: Numbers): ParamSpec => spec('semitones', 'linear', name, o)
export const degrees = (name: string, o: Numbers): ParamSpec => spec('degrees', 'linear', name, o)
export const ratio = (name: string, o: Numbers): ParamSpec => spec('ratio', 'log', name, o)
/** A distance of pitch in octaves, written in octaves and semitones. */
export const octaves = (name: string, o: Numbers): ParamSpec => spec('octaves', 'linear', name, o)
/** A bipolar number that is not a scale factor: an offset, a threshold. */
export const amount = (name: string, o: Numbers): ParamSpec => spec('amount', 'linear', name, o)
export const factor = (name: string, o: Numbers): ParamSpec => spec('factor', 'linear', name, o)
/** A place between left (−1) and right (1). */
export const pan = (name: string, o: Partial<Numbers> = {}): ParamSpec =>
  spec('pan', 'linear', name, { min: -1, max: 1, default: 0, ...o })
/** A musical length in quarter notes. */
export const beats = (name: string, o: Numbers): ParamSpec => spec('beats', 'log', name, o)
export const number = (name: string, o: Numbers): ParamSpec => spec('number', 'linear', name, o)
/** Beats a minute. */
export const tempo = (name: string, standard: number, tip = ''): ParamSpec =>
  spec('tempo', 'linear', name, { min: 20, max: 300, default: standard, tip })
/** A MIDI note number with its fraction; 69 is A4. */
export const note = (name: string, o: Numbers): ParamSpec => spec('note', 'linear', name, o)
export const choice = (name: string, choices: readonly string[], chosen = 0, tip = ''): ParamSpec =>
  spec(
    'choice',
    'linear',
    name,
    { min: 0, max: choices.length - 1, default: chosen, glide: 0, tip, edit: 'exchanged' },
    { choices },
  )
export const toggle = (
  name: string,
  on: boolean,
  tip = '',
  o: { edit?: EditPolicy; momentary?: true } = {},
): ParamSpec =>
  spec('toggle', 'linear', name, {
    min: 0,
    max: 1,
    default: on ? 1 : 0,
    glide: 0,
    tip,
    edit: o.edit ?? 'exchanged',
    momentary: o.momentary,
  })

export const isStepped = (p: ParamSpec): boolean => p.unit === 'choice' || p.unit === 'toggle'
/** Whether the lowest place of the range is silence. */
export const reachesSilence = (p: ParamSpec): boolean => p.gain && p.min <= -60

/** The defaults of a set of parameters. */
export const defaultsOf = (specs: ParamSpecs): Record<string, number> =>
  Object.fromEntries(Object.entries(specs).map(([k, s]) => [k, s.default]))
