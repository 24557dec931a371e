/**
 * Every bound on what comes from outside, in one place: files, the command line, the server and the interface
 * share them. `docs/limits.md` is written from here. In a sentence, {} stands for what was found.
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
    'The largest project that is made by hand has some 2 MB; text is held twice while it is read.',
  ),
  jsonValues: limit(
    1_000_000,
    'values',
    'This {} more than 1,000,000 values in it, which no project needs.',
    'The largest that is possible, with 4,096 links and 20,000 notes on each of 64 tracks, is not one that anybody makes.',
  ),
  jsonDepth: limit(
    100,
    'brackets',
    'This {} nested too deeply to be one.',
    'A parser meets them on the stack.',
  ),
  bundleFile: limit(
    8000 * MB,
    'bytes',
    'it is {} MB large; a bundle of at most 8,000 MB can be taken.',
    'It is read in pieces; a long sound goes straight to where it is kept.',
  ),
  bundleLarge: limit(
    8000 * MB,
    'bytes',
    'The long sounds of this bundle would take more than 8,000 MB.',
    'They are laid down before they are kept. Four hours of stereo at 48 kHz take 5.5 GB.',
  ),
  archive: limit(
    64_000 * MB,
    'bytes',
    'This archive unpacks to more than 64,000 MB.',
    'All that a browser keeps; it is read file by file, and long sounds in pieces.',
  ),
  decodedFile: limit(
    400 * MB,
    'bytes',
    'it is {} MB large; of its kind at most 400 MB can be taken.',
    'The browser decodes it whole.',
  ),
  soundFile: limit(
    12_000 * MB,
    'bytes',
    'it is {} MB large; a sound of at most 12,000 MB can be read.',
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
    'This bundle has more than 512 files in it.',
    'A project uses a file a sound.',
  ),
  midiFile: limit(
    4 * MB,
    'bytes',
    'it is {} MB large; a Standard MIDI File of at most 4 MB can be read.',
    'A million events, more than any song has.',
  ),
  soundLength: limit(
    4 * 3600,
    'seconds',
    'This sound is {} minutes long; at most four hours can be taken. Cut out the part you want first.',
    'As long as a render can be; kept as 32-bit samples, four hours of stereo at 48 kHz take 5.5 GB of this browser’s storage.',
  ),
  chunks: limit(
    10_000,
    'chunks',
    'This {} file is broken: it has more than 10,000 chunks before its sound.',
    'Each is asked for by itself; recorders write some ten.',
  ),
  heldSound: limit(
    300,
    'seconds',
    '{} is longer than 5 minutes: it comes in pieces and can be looped, but not be played by notes or held by an effect. Print the part you want first.',
    'Held whole, two hours of stereo would take 2.8 GB; 5 minutes take 115 MB, in the page and in the engine.',
  ),
  channels: limit(
    2,
    'channels',
    'This {} channels; mono and stereo can be taken. Mix it down first.',
    'Everything here is stereo.',
  ),
  lowestRate: limit(4000, 'Hz at least', 'as for the highest', 'Below that, too little of a sound is left.'),
  highestRate: limit(
    192_000,
    'Hz',
    'This {} Hz; 4 to 192 kHz can be taken.',
    'Nothing above is used for sound.',
  ),
  // projects
  tracks: limit(
    64,
    'tracks',
    'a project can have 64 tracks at most',
    'More than a mix that one hears through.',
  ),
  nodes: limit(
    64,
    'in a row',
    'a chain, branch or container can have 64 effects in a row at most',
    'The chart can still be read.',
  ),
  allNodes: limit(
    2048,
    'in a project',
    'This project has {} effects and containers; at most 2,048 are possible.',
    'A plan of so many is made within a second.',
  ),
  nesting: limit(12, 'deep', 'The chain of {} is nested more than 12 deep.', 'The chart can still be read.'),
  branches: limit(8, 'branches', 'a split can have 8 branches at most', 'The chart can still be read.'),
  modulators: limit(
    128,
    'on a track',
    'a track can have 128 modulators at most',
    'The panel can still be read.',
  ),
  allModulators: limit(
    1024,
    'in a project',
    'This project has {} modulators; at most 1,024 are possible.',
    'A plan of so many is made within a second.',
  ),
  links: limit(4096, 'links', 'a project can have 4,096 links at most', 'The table and the plan stay quick.'),
  sends: limit(256, 'sends', 'a project can have 256 sends at most', 'Four from each of 64 tracks.'),
  laneItems: limit(
    64,
    'items',
    'a lane can have 64 items at most',
    'More cannot be told apart in its picture.',
  ),
  notes: limit(
    20_000,
    'notes',
    'a note line can have 20,000 notes at most',
    'An hour of sixteenths at 120 bpm has 28,800; a line repeats.',
  ),
  points: limit(
    10_000,
    'points',
    'a drawn shape can have 10,000 points at most',
    'A point every frame of the screen for three minutes.',
  ),
  beats: limit(
    100_000,
    'quarter notes',
    'a place in the song lies within 100,000 quarter notes of its start',
    'Five hours and a half at 300 bpm: longer than any render.',
  ),
  takes: limit(
    256,
    'takes',
    'a track can have 256 takes at most',
    'The list can still be read; takes share their sounds’ storage.',
  ),
  sections: limit(
    1024,
    'sections',
    'a project can have 1,024 sections at most',
    'The ruler can still be read.',
  ),
  controls: limit(
    512,
    'controls',
    'a project can have 512 controls of devices at most',
    'More than devices have.',
  ),
  sounds: limit(
    512,
    'sounds',
    'This project has {} sounds; at most 512 are possible.',
    'As many as a bundle has files.',
  ),
  // work
  memory: limit(
    1500 * MB,
    'bytes',
    'This project would take {} MB of memory for its effects and modulators; 1,500 MB can be had.',
    'A page is given some four gigabytes, and sounds take their part. A Delay holds up to 32 MB of past sound, a Stutter 64.',
  ),
  work: limit(
    20,
    'times real time',
    'This project would take {} times as long as it plays; 20 times is the most.',
    'Nobody waits longer, and a minute of it still renders in 20.',
  ),
  renderLength: limit(
    4 * 3600,
    'seconds',
    'At most four hours can be rendered at once.',
    'A WAV file of 32 bits at 96 kHz reaches its 4 GiB after an hour and a half, one of 24 at 48 kHz after four.',
  ),
  tail: limit(
    600,
    'seconds',
    'A tail can have ten minutes at most.',
    'What rings longer is frozen, and never ends.',
  ),
  autoTail: limit(
    30,
    'seconds',
    'nothing: it is faded out there',
    'A tail that was not asked for by its length is faded out there.',
  ),
  // the server
  requestBody: limit(
    64 * MB,
    'bytes',
    'A bundle may have 64 MB at most.',
    'It is held whole while it waits; all that wait hold 128 MB together at most.',
  ),
  requestUnpacked: limit(
    128 * MB,
    'bytes',
    'This bundle would unpack to more than {} MB.',
    'With its samples and its effects, one render keeps within half a gigabyte.',
  ),
  requestMemory: limit(
    400 * MB,
    'bytes',
    'This project would take {} MB of memory for its effects and modulators; 400 MB can be had here.',
    'One render keeps within half a gigabyte.',
  ),
  requestLength: limit(
    3600,
    'seconds',
    'At most 60 minutes can be rendered in one request; this would be {}.',
    'A request ends within two minutes of work.',
  ),
  requestWork: limit(
    120,
    'seconds',
    'The render was stopped: it took more than two minutes of work.',
    'Others wait.',
  ),
  uploadTime: limit(
    60,
    'seconds',
    'The bundle took more than a minute to arrive.',
    'A place in the queue is kept for it meanwhile.',
  ),
  idleReader: limit(
    8,
    'seconds',
    'Nothing was read for 8 seconds.',
    'Others wait. The partial render is discarded.',
  ),
  waiting: limit(
    4,
    'requests',
    'Too many renders are waiting; try again in a few seconds.',
    'Each holds its bundle in memory.',
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
