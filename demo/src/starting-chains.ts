/** A chain to begin with: a track of one of the demo projects, with its sound. */
export interface StartingChain {
  readonly name: string
  /** What it does to a sound. */
  readonly tip: string
  /** Ids of the project and of its track. */
  readonly project: string
  readonly track: string
}

/** The chains that an empty project offers, from calm to wild. */
export const startingChains: readonly StartingChain[] = [
  {
    name: 'Drifting pad',
    tip: 'Two filters drift apart on slow LFOs',
    project: 'motion-studies',
    track: 'drifting',
  },
  {
    name: 'Living reverb',
    tip: 'A gated reverb beside the dry sound',
    project: 'time-studies',
    track: 'living',
  },
  {
    name: 'Shimmer',
    tip: 'Each pass through the reverb is an octave higher',
    project: 'time-studies',
    track: 'shimmer',
  },
  { name: 'Worn record', tip: 'Pitch drifts and jumps', project: 'time-studies', track: 'worn' },
  { name: 'Speaking drums', tip: 'Vowel filters on drums', project: 'tone-studies', track: 'speaking' },
  { name: 'Growl', tip: 'An EQ that travels through its poses', project: 'tone-studies', track: 'growl' },
  { name: 'Cloud of taps', tip: 'Many filtered, scattered echoes', project: 'time-studies', track: 'cloud' },
  {
    name: 'Half-speed stutter',
    tip: 'Repeats slices an octave lower',
    project: 'time-studies',
    track: 'half',
  },
  {
    name: 'Pre-drop blur',
    tip: 'One macro dissolves the loop before a drop',
    project: 'time-studies',
    track: 'blur',
  },
  {
    name: 'Split distortion',
    tip: 'A different distortion on each band',
    project: 'tone-studies',
    track: 'split',
  },
]
