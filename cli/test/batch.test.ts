import { execFile, spawn } from 'node:child_process'
import {
  cpSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { presetOfTrack } from '@oleaje/core/project/preset'
import { startSlurm } from '../../scripts/schedulers.mjs'
import { shardOf } from '../src/shard'

const root = join(import.meta.dirname, '../..')
const long = process.env.OLEAJE_LONG !== undefined
/** Sounds and bad ones among them. */
const COUNT = long ? 500 : 17
const BAD = long ? 10 : 2
const RATES = [44_100, 48_000, 96_000, 22_050]

let folder = ''
const at = (...path: string[]): string => join(folder, ...path)

/** A chain with an effect that has something random in it, so that a second run could differ. */
function preset(): string {
  const track = newTrack('Fog pad', newSource('tone'), 't')
  track.a.nodes = [newEffect('grains', { wet: 0.5 }), newEffect('filter', { cutoff: 1311 })]
  const project = newProject('Night Ferry')
  project.tracks.unshift(track)
  return JSON.stringify(presetOfTrack(project, 't', 'Fog'))
}

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'oleaje-batch-'))
  mkdirSync(at('in', 'more'), { recursive: true })
  for (let n = 0; n < COUNT; n++) {
    const sampleRate = RATES[n % RATES.length] ?? 48_000
    const frames = Math.round((0.2 + 0.01 * (n % 37)) * sampleRate)
    const tone = Float32Array.from(
      { length: frames },
      (_, i) => 0.4 * Math.sin((i * (100 + 7 * n)) / sampleRate),
    )
    const bytes =
      n < BAD
        ? Buffer.from('no sound')
        : writeWav({ sampleRate, channels: n % 2 ? [tone] : [tone, tone] }, 24)
    writeFileSync(at('in', n % 5 ? `${n}.wav` : `more/${n}.wav`), bytes)
  }
  writeFileSync(at('fog.json'), preset())
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const run = promisify(execFile)
async function oleaje(args: string[], env: Record<string, string> = {}) {
  const done = await run(process.execPath, [join(root, 'cli/oleaje.mjs'), ...args], {
    env: { ...process.env, ...env },
    maxBuffer: 1 << 26,
  }).catch((e: { code: number; stdout: string; stderr: string }) => e)
  const lines = done.stdout
    .split('\n')
    .filter((l) => l.startsWith('{'))
    .map((l) => JSON.parse(l) as { state: string; input: string; message?: string })
  return { lines, code: 'code' in done ? done.code : 0, stdout: done.stdout, stderr: done.stderr }
}
/** All files below a folder with what is in them. */
function contents(path: string, under = ''): Record<string, string> {
  return Object.fromEntries(
    readdirSync(join(path, under), { withFileTypes: true }).flatMap((e) => {
      const name = join(under, e.name)
      return e.isDirectory()
        ? Object.entries(contents(path, name))
        : [[name, readFileSync(join(path, name)).toString('base64')]]
    }),
  )
}
const rendering = (out: string, ...more: string[]): string[] => [
  'render',
  at('fog.json'),
  at('in'),
  '--out',
  at(out),
  '--tail',
  '0.31',
  ...more,
]

describe('a batch', () => {
  it('renders every sound of a folder, names the bad ones, and counts them in its exit code', async () => {
    const { lines, code, stderr } = await oleaje(rendering('whole'))
    expect(code).toBe(BAD)
    expect(lines.filter((l) => l.state === 'done')).toHaveLength(COUNT - BAD)
    const failed = lines.filter((l) => l.state === 'failed')
    expect(failed.map((l) => l.input).sort()).toEqual(
      Array.from({ length: BAD }, (_, n) => at('in', n % 5 ? `${n}.wav` : `more/${n}.wav`)).sort(),
    )
    expect(stderr).toContain('This is not a WAV file')
    const wav = readWav(readFileSync(at('whole', '11.wav')))
    // 22.05 kHz is no rate of the engine
    expect(wav.sampleRate).toBe(48_000)
    expect(wav.channels[0]!.length / 48_000).toBeCloseTo(0.31 + 0.31, 3)
  })

  it('killed half-way and resumed gives the bytes of a run without a break', async () => {
    const child = spawn(
      process.execPath,
      [join(root, 'cli/oleaje.mjs'), ...rendering('broken', '--workers', '1')],
      {
        stdio: ['ignore', 'pipe', 'ignore'],
        // a group of its own: the program has another process inside
        detached: true,
      },
    )
    await new Promise<void>((resolve) => {
      let seen = 0
      child.stdout.on('data', (text: Buffer) => {
        seen += text.toString().split('"done"').length - 1
        if (seen >= COUNT / 3) process.kill(-(child.pid ?? 0), 'SIGKILL')
      })
      child.on('exit', () => resolve())
    })
    const { lines } = await oleaje(rendering('broken', '--resume'))
    expect(lines.filter((l) => l.state === 'skipped').length).toBeGreaterThan(2)
    expect(lines.filter((l) => l.state === 'done').length).toBeGreaterThan(2)
    expect(contents(at('broken'))).toEqual(contents(at('whole')))
    // what was spoiled since is made again
    const { size } = statSync(at('broken', '11.wav'))
    writeFileSync(at('broken', '11.wav'), Buffer.alloc(size))
    await oleaje(rendering('broken', '--resume'))
    expect(contents(at('broken'))).toEqual(contents(at('whole')))
  })

  it('in three shards, one of them twice, gives the bytes of a single run', async () => {
    cpSync(at('in'), at('in-copy'), { recursive: true })
    await oleaje(rendering('shards'), {
      SLURM_ARRAY_TASK_ID: '7',
      SLURM_ARRAY_TASK_MIN: '7',
      SLURM_ARRAY_TASK_COUNT: '3',
    })
    const part = Object.keys(contents(at('shards'))).length
    expect(part).toBeGreaterThan(0)
    expect(part).toBeLessThan(2 * (COUNT - BAD))
    await oleaje(rendering('shards', '--shard', '2/3'))
    await oleaje(rendering('shards'), { JOB_COMPLETION_INDEX: '2', OLEAJE_SHARDS: '3' })
    await oleaje(rendering('shards', '--shard', '2/3'))
    expect(contents(at('shards'))).toEqual(contents(at('whole')))
  })

  it('says what is wrong before anything is rendered', async () => {
    for (const [args, says] of [
      [['render', at('fog.json'), '--out', at('x')], /Give sounds or folders/],
      [rendering('x', '--format', 'aac'), /format can be wav, flac, mp3/],
      [rendering('x', '--shard', '4/3'), /like 3\/8/],
      [['render', at('fog.json'), at('nowhere'), '--out', at('x')], /no file or folder/],
      [['render', at('fog.json'), at('in'), at('in-copy'), '--out', at('x')], /both be written/],
    ] as const) {
      const { code, stderr } = await oleaje([...args])
      expect(code, String(args)).toBe(101)
      expect(stderr).toMatch(says)
    }
  })
})

// they are installed and started as root, which takes its time
if (long)
  describe('schedulers on this machine', () => {
    const program = join(root, 'cli/oleaje.mjs')
    const args = (out: string): string[] => [
      program,
      ...rendering(out, '--workers', '1', '--resume', '--quiet'),
    ]

    it('a Slurm array, one task of which is killed and done again, gives the bytes of a single run', async () => {
      const slurm = await startSlurm()
      try {
        const script = at('job.sh')
        writeFileSync(script, `#!/bin/bash\nexec ${[process.execPath, ...args('slurm')].join(' ')}\n`)
        const submit = (...more: string[]) =>
          run('sbatch', ['--wait', '-o', '/dev/null', '--chdir', folder, ...more, script], {
            env: slurm.env,
          }).catch(() => null)
        const whole = submit('--array=1-3')
        await new Promise((resolve) => setTimeout(resolve, 6000))
        await run('scancel', ['--signal=KILL', '1_2'], { env: slurm.env }).catch(() => null)
        await whole
        // alone it would be told that it is all there is
        await oleaje(rendering('slurm', '--shard', '2/3', '--resume'))
        expect(contents(at('slurm'))).toEqual(contents(at('whole')))
      } finally {
        slurm.stop()
      }
    })

    it('GNU parallel gives the bytes of a single run', async () => {
      // its exit code counts the jobs with bad sounds
      const said = await run(
        'parallel',
        ['--will-cite', '-j', '2', '-N0', process.execPath, ...args('parallel'), ':::', '1', '2', '3'],
        { env: { ...process.env, OLEAJE_SHARDS: '3' } },
      ).catch((e: { stderr: string }) => e)
      const [made, wanted] = [contents(at('parallel')), contents(at('whole'))]
      expect(Object.keys(made), said.stderr).toHaveLength(Object.keys(wanted).length)
      expect(Object.keys(wanted).filter((name) => made[name] !== wanted[name])).toEqual([])
    })
  })

describe('shards', () => {
  it('are read from the schedulers', () => {
    expect(shardOf('3/8', {})).toEqual({ index: 2, count: 8 })
    expect(shardOf(undefined, {})).toEqual({ index: 0, count: 1 })
    expect(
      shardOf(undefined, {
        SLURM_ARRAY_TASK_ID: '5',
        SLURM_ARRAY_TASK_MIN: '1',
        SLURM_ARRAY_TASK_STEP: '2',
        SLURM_ARRAY_TASK_COUNT: '4',
      }),
    ).toEqual({ index: 2, count: 4 })
    expect(shardOf(undefined, { AWS_BATCH_JOB_ARRAY_INDEX: '0', AWS_BATCH_JOB_ARRAY_SIZE: '4' })).toEqual({
      index: 0,
      count: 4,
    })
    expect(shardOf(undefined, { PARALLEL_SEQ: '2', OLEAJE_SHARDS: '2' })).toEqual({ index: 1, count: 2 })
    expect(() => shardOf(undefined, { JOB_COMPLETION_INDEX: '2' })).toThrow(/OLEAJE_SHARDS/)
  })
})

describe('measure and check', () => {
  it('print figures of sounds, and which files cannot be read', async () => {
    const { stdout } = await oleaje(['measure', '--json', at('in', '11.wav')])
    const found = JSON.parse(stdout) as Record<string, number>
    expect(found.sampleRate).toBe(22_050)
    expect(found.seconds).toBeCloseTo(0.31, 3)
    expect(found.truePeak).toBeCloseTo(-7.96, 1)
    // one loudspeaker against two
    const tone = Float32Array.from(
      { length: 35_011 },
      (_, i) => 0.4 * Math.sin((i * 2 * Math.PI * 311) / 44_100),
    )
    for (const [name, channels] of [
      ['one', [tone]],
      ['two', [tone, tone]],
    ] as const)
      writeFileSync(at(`${name}.wav`), writeWav({ sampleRate: 44_100, channels: [...channels] }, 24))
    const both = await oleaje(['measure', '--json', at('one.wav'), at('two.wav')])
    const [one, two] = both.stdout
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as Record<string, number>)
    expect(two!.loudness! - one!.loudness!).toBeCloseTo(3.01, 2)
    const checked = await oleaje(['check', at('fog.json'), at('in', '1.wav'), at('in', '11.wav')])
    expect(checked.code).toBe(1)
    expect(checked.stdout).toMatch(/✓ .*preset “Fog”[\s\S]*✗ .*1\.wav: This is not a WAV[\s\S]*✓ .*22050 Hz/)
  })
})
