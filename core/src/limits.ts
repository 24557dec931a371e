/**
 * All limits on input. Files, the command line, the server and the interface share them, and
 * `docs/limits.md` is generated from them. In a sentence, {} stands for the value that was found.
 */
export interface Limit {
  readonly most: number
  readonly unit: string
  readonly why: string
  readonly sentence: string
}

const MB = 1024 * 1024
const limit = (most: number, unit: string, sentence: string, why: string): Limit => ({
  most,
  unit,
  sentence,
  why,
})

export const limits = {
  // files
  projectText: limit(
    32 * MB,
    'characters',
    'This {} long; at most 32 MB can be read.',
    'The largest project made by hand has about 2 MB. Reading needs twice the size of the text.',
  ),
  jsonValues: limit(
    1_000_000,
    'values',
    'This {} more than 1,000,000 values. A project needs far fewer.',
    'A project with 4,096 links and 20,000 notes on each of 64 tracks would need more, but nobody makes one.',
  ),
  jsonDepth: limit(
    100,
    'brackets',
    'This {} nested too deeply.',
    'Parsing deeper text could exhaust the stack.',
  ),
  bundleFile: limit(
    8000 * MB,
    'bytes',
    'it has {} MB, and a bundle can have 8,000 MB at most.',
    'It is read in pieces, and long sounds are written directly to storage.',
  ),
  bundleLarge: limit(
    8000 * MB,
    'bytes',
    'The long sounds of this bundle would take more than 8,000 MB.',
    'They are written to temporary storage first. Four hours of stereo at 48 kHz take 5.5 GB.',
  ),
  archive: limit(
    64_000 * MB,
    'bytes',
    'This archive unpacks to more than 64,000 MB.',
    'It holds everything from one browser. Files are read one by one, long sounds in pieces.',
  ),
  decodedFile: limit(
    400 * MB,
    'bytes',
    'it has {} MB, and files of its format can have 400 MB at most.',
    'The browser decodes it as a whole.',
  ),
  soundFile: limit(
    12_000 * MB,
    'bytes',
    'it has {} MB, and a sound can have 12,000 MB at most.',
    'Four hours of 64-bit stereo at 48 kHz take 11 GB. It is read in pieces.',
  ),
  bundleUnpacked: limit(
    1024 * MB,
    'bytes',
    'This bundle would unpack to more than {} MB.',
    'Sounds are held as 32-bit samples while a project is open.',
  ),
  bundleSamples: limit(
    1024 * MB,
    'bytes',
    'The sounds of this bundle would take more than {} MB.',
    'A file of 8 bits grows fourfold when it is read.',
  ),
  bundleEntries: limit(
    512,
    'files',
    'This bundle contains more than 512 files.',
    'A project uses one file for each sound.',
  ),
  midiFile: limit(
    4 * MB,
    'bytes',
    'it has {} MB, and a Standard MIDI File can have 4 MB at most.',
    'That is a million events, more than any song has.',
  ),
  soundLength: limit(
    4 * 3600,
    'seconds',
    'This sound is {} minutes long. At most four hours can be imported; cut out the part you want first.',
    'A render can be as long. Four hours of stereo at 48 kHz take 5.5 GB of browser storage as 32-bit samples.',
  ),
  chunks: limit(
    10_000,
    'chunks',
    'This {} file is damaged: it has more than 10,000 chunks before its sound.',
    'Each chunk is read separately. Recorders write about ten.',
  ),
  heldSound: limit(
    300,
    'seconds',
    '{} is longer than 5 minutes and is streamed. It can be looped, but not played by notes or loaded into an effect. Print the part you want first.',
    'Two hours of stereo in memory would take 2.8 GB. Five minutes take 115 MB, in the page and in the engine.',
  ),
  channels: limit(
    2,
    'channels',
    'This {} channels. Only mono and stereo can be imported; mix it down first.',
    'All signals in Oleaje are stereo.',
  ),
  lowestRate: limit(4000, 'Hz at least', 'as for the highest', 'Lower rates leave too little of a sound.'),
  highestRate: limit(
    192_000,
    'Hz',
    'This {} Hz. Rates from 4 to 192 kHz can be imported.',
    'Higher rates are not used for sound.',
  ),
  // projects
  tracks: limit(64, 'tracks', 'a project can have 64 tracks at most', 'More tracks than a clear mix needs.'),
  nodes: limit(
    64,
    'in a row',
    'a chain, branch or container can have 64 effects in a row at most',
    'The chart stays readable.',
  ),
  allNodes: limit(
    2048,
    'in a project',
    'This project has {} effects and containers; at most 2,048 are possible.',
    'The engine prepares that many within a second.',
  ),
  nesting: limit(12, 'deep', 'The chain of {} is nested more than 12 deep.', 'The chart stays readable.'),
  branches: limit(8, 'branches', 'a split can have 8 branches at most', 'The chart stays readable.'),
  modulators: limit(
    128,
    'on a track',
    'a track can have 128 modulators at most',
    'The panel stays readable.',
  ),
  allModulators: limit(
    1024,
    'in a project',
    'This project has {} modulators; at most 1,024 are possible.',
    'The engine prepares that many within a second.',
  ),
  links: limit(
    4096,
    'links',
    'a project can have 4,096 links at most',
    'The table and the engine stay fast.',
  ),
  sends: limit(256, 'sends', 'a project can have 256 sends at most', 'That is four from each of 64 tracks.'),
  laneItems: limit(
    64,
    'items',
    'a lane can have 64 items at most',
    'More cannot be distinguished in the picture.',
  ),
  notes: limit(
    20_000,
    'notes',
    'a note line can have 20,000 notes at most',
    'An hour of sixteenths at 120 bpm has 28,800 notes, and a line repeats.',
  ),
  points: limit(
    10_000,
    'points',
    'a drawn shape can have 10,000 points at most',
    'That is one point per screen frame for three minutes.',
  ),
  beats: limit(
    100_000,
    'quarter notes',
    'a place in the song lies within 100,000 quarter notes of its start',
    'That is five and a half hours at 300 bpm, longer than any render.',
  ),
  takes: limit(
    256,
    'takes',
    'a track can have 256 takes at most',
    'The list stays readable. Takes share the storage of their sounds.',
  ),
  sections: limit(1024, 'sections', 'a project can have 1,024 sections at most', 'The ruler stays readable.'),
  measurements: limit(
    64,
    'measurements',
    'a project can keep 64 measurements at most',
    'Each has up to 64 curves; more would outweigh the rest of the file.',
  ),
  measurementPoints: limit(
    2000,
    'points',
    'a kept curve has 2,000 points at most',
    'Twice what a chart can show on most screens.',
  ),
  controls: limit(
    512,
    'controls',
    'a project can have 512 controls of devices at most',
    'More than devices have controls.',
  ),
  sounds: limit(
    512,
    'sounds',
    'This project has {} sounds; at most 512 are possible.',
    'A bundle can hold as many files.',
  ),
  // work
  memory: limit(
    1500 * MB,
    'bytes',
    'This project would take {} MB of memory for its effects and modulators; 1,500 MB are available.',
    'A page gets about 4 GB, of which sounds need a part. A Delay holds up to 32 MB of past sound, a Stutter 64 MB.',
  ),
  work: limit(
    20,
    'times real time',
    'This project would take {} times as long as it plays. At most 20 times is allowed.',
    'One minute of it still renders in 20 minutes.',
  ),
  renderLength: limit(
    4 * 3600,
    'seconds',
    'At most four hours can be rendered at once.',
    'A WAV file reaches its limit of 4 GiB after 1.5 hours at 32 bit and 96 kHz, after 4 hours at 24 bit and 48 kHz.',
  ),
  tail: limit(
    600,
    'seconds',
    'A tail can have ten minutes at most.',
    'A longer tail is frozen and never ends.',
  ),
  autoTail: limit(
    30,
    'seconds',
    'none; the tail fades out there',
    'A tail without a given length fades out there.',
  ),
  // the server
  requestBody: limit(
    64 * MB,
    'bytes',
    'A bundle can have 64 MB at most.',
    'A waiting bundle is held in memory. All of them together can take 128 MB.',
  ),
  requestUnpacked: limit(
    128 * MB,
    'bytes',
    'This bundle would unpack to more than {} MB.',
    'One render stays below 512 MB with its samples and effects.',
  ),
  requestMemory: limit(
    400 * MB,
    'bytes',
    'This project would take {} MB of memory for its effects and modulators; 400 MB are available here.',
    'One render stays below 512 MB.',
  ),
  requestLength: limit(
    3600,
    'seconds',
    'At most 60 minutes can be rendered in one request; this would be {}.',
    'A request may take two minutes of processor time.',
  ),
  requestWork: limit(
    120,
    'seconds',
    'The render was stopped: it took more than two minutes of processor time.',
    'Other requests are waiting.',
  ),
  uploadTime: limit(
    60,
    'seconds',
    'The bundle took more than a minute to arrive.',
    'It occupies a place in the queue meanwhile.',
  ),
  idleReader: limit(
    8,
    'seconds',
    'Nothing was read for 8 seconds.',
    'Other requests are waiting. The partial render is discarded.',
  ),
  waiting: limit(
    4,
    'requests',
    'Too many renders are waiting. Try again in a few seconds.',
    'Each of them holds its bundle in memory.',
  ),
} satisfies Record<string, Limit>

export type LimitName = keyof typeof limits

/** The sentence of a limit, with what was found in its place. */
export const sentenceOf = (name: LimitName, found: string | number = ''): string =>
  limits[name].sentence.replace('{}', typeof found === 'number' ? found.toLocaleString('en') : found)

/** All limits as a page of Markdown: docs/limits.md. */
export function limitsPage(): string {
  const cell = (text: string): string => text.replaceAll('|', '\\|')
  const rows = Object.entries(limits).map(
    ([name, l]: [string, Limit]) =>
      `| ${name} | ${l.most.toLocaleString('en')} ${l.unit} | ${cell(l.why)} | ${cell(l.sentence.replace('{}', '…'))} |`,
  )
  return `# Limits

Every limit on input, with its reason and its message. Generated by \`npm run limits\` from
\`core/src/limits.ts\`, where they are defined. Files, the command line, the server and the interface share them.

| Name | At most | Reason | Message |
|---|---|---|---|
${rows.join('\n')}
`
}
