import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { runCommand } from 'citty'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { writeBundle } from '@oleaje/core/formats/bundle'
import { audioHash } from '@oleaje/core/formats/hash'
import { resample } from '@oleaje/core/formats/resample'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { planRender, renderWav } from '@oleaje/core/render/render'
import { loadProject } from '../src/load'
import { renderCommand } from '../src/render'

const RATE = 48_000
const sound = {
  sampleRate: RATE,
  channels: [0, 1].map((c) =>
    Float32Array.from({ length: RATE / 2 }, (_, i) => 0.4 * Math.sin((i * (c + 1)) / 30)),
  ),
}
const hash = await audioHash(sound)

function night() {
  const project = newProject('Night Ferry')
  const pad = newTrack('Fog pad', newSource('loop', {}, hash, 'src'), 'pad')
  pad.a.nodes = [newEffect('filter', { cutoff: 900 }, 'f')]
  project.tracks.unshift(pad)
  project.audio[hash] = { name: 'fog pad', frames: RATE / 2, sampleRate: RATE, channels: 2 }
  return project
}

let folder = ''
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'oleaje-cli-'))
  writeFileSync(join(folder, 'project.json'), JSON.stringify(night()))
  // under any name: it is known by its content
  writeFileSync(join(folder, 'take 7.WAV'), writeWav(sound, 32))
})
afterEach(() => {
  rmSync(folder, { recursive: true, force: true })
  process.exitCode = undefined
})

async function run(...args: string[]): Promise<{ said: string; wrong: string; failed: boolean }> {
  const said = vi.spyOn(console, 'log').mockImplementation(() => {})
  const wrong = vi.spyOn(console, 'error').mockImplementation(() => {})
  await runCommand(renderCommand, { rawArgs: args })
  const found = {
    said: said.mock.calls.flat().join('\n'),
    wrong: wrong.mock.calls.flat().join('\n'),
    failed: process.exitCode === 1,
  }
  said.mockRestore()
  wrong.mockRestore()
  return found
}
const project = (): string => join(folder, 'project.json')
const out = (): string => join(folder, 'prints', 'pad.wav')

describe('a project on disk', () => {
  it('is read with its sounds beside it, or as a bundle, to the same', async () => {
    const loose = await loadProject(project())
    expect([...loose.audio.keys()]).toEqual([hash])
    const bundle = join(folder, 'night.zip')
    writeFileSync(bundle, await writeBundle(loose))
    const packed = await loadProject(bundle)
    expect(packed.project).toEqual(loose.project)
    expect(packed.audio.get(hash)?.channels[1]).toEqual(sound.channels[1])
  })
  it('says what is missing', async () => {
    await expect(loadProject(join(folder, 'none.json'))).rejects.toThrow('There is no file')
    rmSync(join(folder, 'take 7.WAV'))
    await expect(loadProject(project())).rejects.toThrow('The sound “fog pad” is missing')
  })
})

describe('a project with a long sound', () => {
  it('renders from where the sound is laid down, beside its project and in a bundle, to the same bytes', async () => {
    // five minutes and a little more, at another rate than the project's
    const rate = 11_025
    const long = {
      sampleRate: rate,
      channels: [
        Float32Array.from({ length: 317 * rate }, (_, i) =>
          i % 40_000 < 2000 ? 0.5 * Math.sin((i * i) / 1e7) : 0,
        ),
      ],
    }
    const name = await audioHash(long)
    const p = night()
    p.tracks[0]!.source!.audio = name
    p.audio = { [name]: { name: 'crossing', frames: 317 * rate, sampleRate: rate, channels: 1 } }
    writeFileSync(project(), JSON.stringify(p))
    writeFileSync(join(folder, 'crossing.wav'), writeWav(long, 32))
    const loose = await loadProject(project())
    expect(loose.audio.get(name)!.pieces!.frames).toBe(317 * RATE)
    await run(project(), '--out', out(), '--from', '311', '--to', '313.37', '--tail', '0')
    const beside = readFileSync(out())
    writeFileSync(join(folder, 'night.zip'), await writeBundle(loose))
    rmSync(join(folder, 'crossing.wav'))
    await run(join(folder, 'night.zip'), '--out', out(), '--from', '311', '--to', '313.37', '--tail', '0')
    expect(Buffer.compare(readFileSync(out()), beside)).toBe(0)
    // what a sound that is held whole gives; of that, the end that is heard
    const end = resample(long.channels[0]!.subarray(308 * rate), rate, RATE)
    const held = { sampleRate: RATE, channels: [new Float32Array(317 * RATE)] }
    held.channels[0]!.set(end, 308 * RATE)
    const parts = [
      ...renderWav(planRender(loose.project, { from: 311, to: 313.37, tail: 0 }), () => held, 24),
    ].map((x) => x.bytes)
    expect(Buffer.compare(beside, Buffer.concat(parts))).toBe(0)
    expect(Math.max(...readWav(beside).channels[0]!)).toBeGreaterThan(0.05)
  })
})

describe('rendering by the command line', () => {
  it('writes what core renders, byte for byte, and says what came of it', async () => {
    const { said, failed } = await run(
      project(),
      '--out',
      out(),
      '--from',
      '0',
      '--to',
      '1',
      '--tail',
      '0',
      '--depth',
      '24',
    )
    expect(failed).toBe(false)
    const loaded = await loadProject(project())
    const parts = [
      ...renderWav(
        planRender(loaded.project, { from: 0, to: 1, tail: 0 }),
        (h) => loaded.audio.get(h) ?? null,
        24,
      ),
    ].map((p) => p.bytes)
    expect(Buffer.compare(readFileSync(out()), Buffer.concat(parts))).toBe(0)
    expect(said).toMatch(/1\.00 s, -?\d+\.\d LUFS, peak -?\d+\.\d dBFS/)
  })
  it('renders one track by its name, at the depth asked for, without a word', async () => {
    const { said, failed } = await run(
      project(),
      '--out',
      out(),
      '--to',
      '0.5',
      '--tail',
      '0',
      '--track',
      'Fog pad',
      '--depth',
      '16',
      '--quiet',
    )
    expect([failed, said]).toEqual([false, ''])
    const bytes = readFileSync(out())
    expect(bytes.length).toBe(44 + (RATE / 2) * 2 * 2)
    expect(Math.max(...readWav(bytes).channels[0]!)).toBeGreaterThan(0.05)
  })
  it.each([
    [['--depth', '20'], 'The depth can be 16, 24 or 32, not “20”.'],
    [['--from', 'soon'], '--from must be a number of seconds, 0 or more, not “soon”.'],
    [['--track', 'Anchor'], 'Anchor'],
  ])('refuses %j with a sentence and leaves nothing behind', async (args, sentence) => {
    const { wrong, failed } = await run(project(), '--out', out(), ...args)
    expect(failed).toBe(true)
    expect(wrong).toContain(sentence)
    expect(existsSync(out())).toBe(false)
    expect(existsSync(join(folder, 'prints')) ? readdirSync(join(folder, 'prints')) : []).toEqual([])
  })
})

describe('what the command line is given and cannot take', () => {
  const render = (...more: string[]): Promise<{ said: string; wrong: string; failed: boolean }> =>
    run(project(), '--out', out(), '--to', '0.2', '--tail', '0', ...more)
  it('leaves bad files beside a project alone, and names them where a sound is missing', async () => {
    writeFileSync(join(folder, 'broken.wav'), 'RIFF nonsense')
    expect((await render('--quiet')).failed).toBe(false)
    rmSync(join(folder, 'take 7.WAV'))
    expect((await render()).wrong).toMatch(
      /“fog pad” is missing.*Not read: “broken.wav”: This is not a WAV file/,
    )
  })
  it('does not wait at what is no file', async () => {
    execFileSync('mkfifo', [join(folder, 'pipe.wav')])
    expect((await render('--quiet')).failed).toBe(false)
    expect((await run(join(folder, 'pipe.wav'), '--out', out())).wrong).toMatch(
      /“.*pipe.wav” is not a file that can be read/,
    )
    expect((await run(project(), '--out', join(folder, 'pipe.wav'))).wrong).toMatch(
      /is not a file that can be written/,
    )
  })
  it('never writes over what it reads', async () => {
    const before = readFileSync(project(), 'utf8')
    expect((await run(project(), '--out', project())).wrong).toMatch(/“project.json” is read for this render/)
    expect((await run(project(), '--out', join(folder, 'take 7.WAV'), '--to', '0.2')).wrong).toMatch(
      /“take 7.WAV” is read for this render/,
    )
    expect(readFileSync(project(), 'utf8')).toBe(before)
  })
  it.each([
    [['--loud'], /“--loud” is not an option. Options: --out, --from/],
    [['--from', '-1'], /“-1” is not an option|0 or more/],
    [['--from=-1'], /--from must be a number of seconds, 0 or more, not “-1”/],
    [['--tail='], /--tail must be a number/],
    [['another.json'], /Only one project can be rendered/],
  ])('%j is an error with a sentence', async (more, sentence) => {
    const { wrong, failed } = await render(...more)
    expect(failed).toBe(true)
    expect(wrong).toMatch(sentence)
  })
  it('takes a sound of another rate for what it is, and brings it to the project’s', async () => {
    const other = {
      sampleRate: 44_100,
      channels: [
        Float32Array.from({ length: 44_100 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 311 * i) / 44_100)),
      ],
    }
    const name = await audioHash(other)
    const p = night()
    for (const t of p.tracks) if (t.source) t.source.audio = name
    p.audio = { [name]: { name: 'rope', frames: 44_100, channels: 1, sampleRate: 44_100 } }
    writeFileSync(project(), JSON.stringify(p))
    writeFileSync(join(folder, 'rope.wav'), writeWav(other, 32))
    const loaded = await loadProject(project())
    const [sound] = [...loaded.audio.values()]
    expect([sound?.sampleRate, sound?.channels[0]?.length]).toEqual([48_000, 48_000])
    expect(loaded.audio.has(loaded.project.tracks[0]?.source?.audio ?? '')).toBe(true)
  })

  it('is the same file from one thread and from three', async () => {
    const p = night()
    for (const name of ['keys', 'bass', 'horn']) {
      const t = newTrack(name, newSource('loop', {}, hash, `${name}-src`), name)
      t.a.nodes = [newEffect('delay', { feedback: 0.7 }, `${name}-d`), newEffect('reverb', {}, `${name}-r`)]
      p.tracks.unshift(t)
    }
    writeFileSync(project(), JSON.stringify(p))
    const made = ['1', '3'].map((workers) => {
      const to = join(folder, `by-${workers}.wav`)
      const program = join(import.meta.dirname, '..', 'oleaje.mjs')
      execFileSync(process.execPath, [program, 'render', project(), '--out', to, '--workers', workers])
      return readFileSync(to)
    })
    expect(made[0]!.length).toBeGreaterThan(RATE)
    expect(made[0]!.equals(made[1]!)).toBe(true)
  }, 60_000)
})
