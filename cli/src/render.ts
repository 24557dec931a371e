import {
  closeSync,
  mkdirSync,
  openSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs'
import { basename, dirname, resolve } from 'node:path'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { WavEncoder, wavHeader } from '@oleaje/core/formats/wav'
import { checkBudget } from '@oleaje/core/project/budget'
import { planRender, render } from '@oleaje/core/render/render'
import { defineCommand } from 'citty'
import { loadProject } from './load'

const options = {
  project: { type: 'positional', description: 'project.json or bundle.zip', required: true },
  out: { type: 'string', description: 'WAV file to write', required: true },
  from: { type: 'string', description: 'start in seconds (default: the loop)' },
  to: { type: 'string', description: 'end in seconds' },
  track: { type: 'string', description: 'only this track, by name or id' },
  tail: { type: 'string', description: 'tail in seconds, or auto', default: 'auto' },
  depth: { type: 'string', description: '16, 24 or 32 (float)', default: '24' },
  quiet: { type: 'boolean', description: 'print nothing', default: false },
} as const

/**
 * `oleaje render PROJECT --out FILE.wav`: streams the render to disk, so its length does not matter to
 * memory.
 */
export const renderCommand = defineCommand({
  meta: { name: 'render', description: 'Render a project (.json or .zip) to a WAV file' },
  args: options,
  async run({ args, rawArgs }) {
    try {
      checkArgs(rawArgs, args._)
      await renderFile(args)
    } catch (error) {
      console.error(`✗ ${error instanceof Error ? error.message : String(error)}`)
      process.exitCode = 1
    }
  },
})

async function renderFile(args: {
  project: string
  out: string
  from?: string
  to?: string
  track?: string
  tail: string
  depth: string
  quiet: boolean
}): Promise<void> {
  const depth = Number(args.depth)
  if (depth !== 16 && depth !== 24 && depth !== 32)
    throw new Error(`The depth can be 16, 24 or 32, not “${args.depth}”.`)
  const { project, audio, files } = await loadProject(args.project)
  const plan = planRender(project, {
    from: seconds(args.from, 'from'),
    to: seconds(args.to, 'to'),
    track: args.track,
    tail: args.tail === 'auto' ? 'auto' : (seconds(args.tail, 'tail') ?? 'auto'),
  })
  checkBudget(project, plan.frames / plan.sampleRate)
  const out = resolve(args.out)
  checkOut(out, files)
  mkdirSync(dirname(out), { recursive: true })
  const part = `${out}.part`
  const file = openSync(part, 'w')
  const encoder = new WavEncoder(depth as WavDepth)
  const loudness = new LoudnessMeter(plan.sampleRate)
  let peak = 0
  const started = performance.now()
  const stop = stopSignal()
  try {
    writeSync(
      file,
      wavHeader({ channels: 2, sampleRate: plan.sampleRate, depth: depth as WavDepth, frames: plan.frames }),
    )
    let shown = 0
    for (const { channels, done } of render(plan, (hash) => audio.get(hash) ?? null)) {
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
function checkArgs(raw: readonly string[], names: readonly string[]): void {
  for (const arg of raw) {
    const name = /^--?([^=]*)/.exec(arg)?.[1]
    if (name !== undefined && name !== 'help' && name !== 'h' && !(name in options && name !== 'project'))
      throw new Error(
        `“${arg}” is not an option. Options: --${Object.keys(options)
          .filter((o) => o !== 'project')
          .join(', --')}.`,
      )
  }
  if (names.length > 1)
    throw new Error(`Only one project can be rendered at a time. Leave out “${names[1]}”.`)
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
