import {
  closeSync,
  mkdirSync,
  openSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs'
import { basename, dirname, resolve } from 'node:path'
import { soundFormats } from '@oleaje/core/formats/sound-encoder'
import { looksLikePreset, readPreset } from '@oleaje/core/project/preset'
import { usualOrder } from '@oleaje/core/render/delivery'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { WavEncoder, wavHeader } from '@oleaje/core/formats/wav'
import { checkBudget } from '@oleaje/core/project/budget'
import { type RenderOptions, planRender, render } from '@oleaje/core/render/render'
import { SOUND_TRACK } from '@oleaje/core/render/sound-through'
import { defineCommand } from 'citty'
import { type Batch, runBatch } from './batch'
import { loadProject } from './load'
import { recordersOf } from './record-job'
import { shardOf } from './shard'

const options = {
  project: { type: 'positional', description: 'project.json, bundle.zip or preset.json', required: true },
  out: { type: 'string', description: 'file to write; with a preset, the folder', required: true },
  from: { type: 'string', description: 'start in seconds (default: the loop)' },
  to: { type: 'string', description: 'end in seconds' },
  track: { type: 'string', description: 'only this track, by name or id' },
  tail: { type: 'string', description: 'tail in seconds, or auto', default: 'auto' },
  depth: { type: 'string', description: '16, 24 or 32 (float)', default: '24' },
  format: { type: 'string', description: 'wav, flac or mp3, with a preset', default: 'wav' },
  rate: { type: 'string', description: 'sample rate in Hz, with a preset (default: that of the sound)' },
  loudness: { type: 'string', description: 'loudness target in LUFS, with a preset' },
  ceiling: { type: 'string', description: 'highest true peak in dBTP of a loudness target', default: '-1' },
  tempo: { type: 'string', description: 'tempo for synced times, with a preset', default: '120' },
  resume: { type: 'boolean', description: 'skip outputs that are there already', default: false },
  shard: { type: 'string', description: 'part of the sounds, such as 3/8' },
  workers: {
    type: 'string',
    description: 'tracks or sounds at once (default: one for each core)',
    default: '0',
  },
  quiet: { type: 'boolean', description: 'print nothing', default: false },
} as const

/** Exit code of a command that was not understood; lower ones count files that failed. */
const WRONG_USE = 101

/**
 * `oleaje render PROJECT --out FILE.wav` streams the render of a project to disk, so its length does not
 * matter to memory. `oleaje render PRESET SOUND… --out FOLDER` puts any number of sounds through a chain.
 */
export const renderCommand = defineCommand({
  meta: {
    name: 'render',
    description: 'Render a project (.json or .zip) to a WAV file, or sounds and folders through a preset',
  },
  args: options,
  async run({ args, rawArgs }) {
    try {
      checkArgs(rawArgs)
      const preset = presetText(args.project)
      if (preset !== null) process.exitCode = await runBatch(batchOf(args, preset, args._.slice(1)))
      else {
        if (args._.length > 1)
          throw new Error(
            `Only one project can be rendered at a time; sounds need a preset. Leave out “${args._[1]}”.`,
          )
        await renderFile(args)
      }
    } catch (error) {
      console.error(`✗ ${error instanceof Error ? error.message : String(error)}`)
      process.exitCode = presetText(args.project) === null ? 1 : WRONG_USE
    }
  },
})

/** The text of a preset; null where the file is something else. */
function presetText(path: string): string | null {
  if (!/\.json$/i.test(path) || !statSync(path, { throwIfNoEntry: false })?.isFile()) return null
  const text = readFileSync(path, 'utf8')
  return looksLikePreset(text) ? text : null
}

function batchOf(
  args: Record<'tail' | 'depth' | 'format' | 'ceiling' | 'tempo' | 'workers' | 'out', string> & {
    rate?: string
    loudness?: string
    shard?: string
    resume: boolean
    quiet: boolean
  },
  preset: string,
  inputs: readonly string[],
): Batch {
  if (inputs.length === 0) throw new Error('Give sounds or folders for the preset to process.')
  readPreset(preset)
  const format = soundFormats.find((f) => f === args.format)
  if (!format) throw new Error(`The format can be ${soundFormats.join(', ')}, not “${args.format}”.`)
  const tempo = number(args.tempo, 'tempo')
  if (!(tempo >= 20 && tempo <= 400)) throw new Error(`The tempo can be 20 to 400 bpm, not ${tempo}.`)
  const isTarget = args.loudness !== undefined
  return {
    inputs,
    out: args.out,
    preset,
    tempo,
    resume: args.resume,
    shard: shardOf(args.shard, process.env),
    workers: number(args.workers, 'workers'),
    quiet: args.quiet,
    order: {
      ...usualOrder,
      what: 'track',
      track: SOUND_TRACK,
      tail: args.tail === 'auto' ? 'auto' : (seconds(args.tail, 'tail') ?? 'auto'),
      rate: args.rate === undefined ? 0 : number(args.rate, 'rate'),
      format,
      depth: depthOf(args.depth),
      level: {
        kind: isTarget ? 'loudness' : 'as it is',
        loudness: isTarget ? number(args.loudness ?? '', 'loudness') : 0,
        ceiling: number(args.ceiling, 'ceiling'),
      },
    },
  }
}

function number(text: string, name: string): number {
  const value = Number(text)
  if (text.trim() === '' || !Number.isFinite(value))
    throw new Error(`--${name} must be a number, not “${text}”.`)
  return value
}

function depthOf(text: string): WavDepth {
  const depth = Number(text)
  if (depth !== 16 && depth !== 24 && depth !== 32)
    throw new Error(`The depth can be 16, 24 or 32, not “${text}”.`)
  return depth
}

async function renderFile(args: {
  project: string
  out: string
  from?: string
  to?: string
  track?: string
  tail: string
  depth: string
  workers: string
  quiet: boolean
}): Promise<void> {
  const depth = depthOf(args.depth)
  const loaded = await loadProject(args.project)
  const { project, audio, files } = loaded
  const options: RenderOptions = {
    from: seconds(args.from, 'from'),
    to: seconds(args.to, 'to'),
    track: args.track,
    tail: args.tail === 'auto' ? 'auto' : (seconds(args.tail, 'tail') ?? 'auto'),
  }
  const plan = planRender(project, options)
  checkBudget(project, plan.frames / plan.sampleRate)
  const out = resolve(args.out)
  checkOut(out, files)
  mkdirSync(dirname(out), { recursive: true })
  const part = `${out}.part`
  const file = openSync(part, 'w')
  const encoder = new WavEncoder(depth)
  const loudness = new LoudnessMeter(plan.sampleRate)
  let peak = 0
  const started = performance.now()
  const stop = stopSignal()
  const recorders = recordersOf(args.project, options, loaded, number(args.workers, 'workers'))
  try {
    writeSync(
      file,
      wavHeader({ channels: 2, sampleRate: plan.sampleRate, depth: depth, frames: plan.frames }),
    )
    let shown = 0
    for (const { channels, done } of render(plan, (hash) => audio.get(hash) ?? null, recorders?.reels)) {
      if (channels[0].length === 0) await recorders?.reels.more()
      // signals are heard between two turns of the loop
      await new Promise((resolve) => setImmediate(resolve))
      if (stop.signal) throw new Error(`Stopped by ${stop.signal}; no file was written.`)
      writeSync(file, encoder.encode(channels))
      loudness.process(channels[0], channels[1])
      for (const c of channels) for (const x of c) peak = Math.max(peak, Math.abs(x))
      const percent = Math.floor((done / plan.frames) * 100)
      if (!args.quiet && process.stderr.isTTY && percent > shown)
        process.stderr.write(`\r${(shown = percent)} %`)
    }
    closeSync(file)
    renameSync(part, out)
  } catch (error) {
    rmSync(part, { force: true })
    throw error
  } finally {
    stop.forget()
    await recorders?.end()
  }
  if (args.quiet) return
  const length = plan.frames / plan.sampleRate
  console.log(
    `${out}: ${length.toFixed(2)} s, ${loudness.integrated.toFixed(1)} LUFS, peak ${(20 * Math.log10(peak)).toFixed(1)} dBFS, ${(length / ((performance.now() - started) / 1000)).toFixed(1)} × real time`,
  )
}

/** Listens for what ends a program, so that what is half written can be removed first. */
function stopSignal(): { readonly signal: string; readonly forget: () => void } {
  const stop = { signal: '', forget: () => names.forEach((name) => process.off(name, end)) }
  const end = (name: string): void => {
    stop.signal = name
  }
  const names = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const
  for (const name of names) process.on(name, end)
  return stop
}

/** An unknown option is an error. */
function checkArgs(raw: readonly string[]): void {
  for (const arg of raw) {
    const name = /^--?([a-z][^=]*)/.exec(arg)?.[1]
    if (name !== undefined && name !== 'help' && name !== 'h' && !(name in options && name !== 'project'))
      throw new Error(
        `“${arg}” is not an option. Options: --${Object.keys(options)
          .filter((o) => o !== 'project')
          .join(', --')}.`,
      )
  }
}

/** The file that is written must be none of those that are read, and a file. */
function checkOut(out: string, files: readonly string[]): void {
  const there = statSync(out, { throwIfNoEntry: false })
  if (!there) return
  if (!there.isFile()) throw new Error(`“${out}” is not a file that can be written.`)
  const real = realpathSync(out)
  if (files.some((f) => realpathSync(f) === real))
    throw new Error(`“${basename(out)}” is read for this render; write it to another file.`)
}

function seconds(text: string | undefined, name: string): number | undefined {
  if (text === undefined) return undefined
  const value = Number(text)
  // an option without a value comes as true
  if (String(text).trim() === '' || String(text) === 'true' || !Number.isFinite(value) || value < 0)
    throw new Error(`--${name} must be a number of seconds, 0 or more, not “${text}”.`)
  return value
}
