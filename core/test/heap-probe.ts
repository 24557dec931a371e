import { effects } from '@oleaje/core/effects/index'
import { BLOCK, ParamBlock, songBlock } from '@oleaje/core/contract/block'
import { LinkState } from '@oleaje/core/engine/link-state'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { ParamState } from '@oleaje/core/engine/param-state'
import { modulators } from '@oleaje/core/modulators/index'
import { newLink } from '@oleaje/core/project/new'
import { linkParams, linkSettings } from '@oleaje/core/project/targets'
import { sources } from '@oleaje/core/sources/index'
import { RATE, effectRig, modulatorRig, noise, shake, sourceRig } from './rig'

/**
 * Bytes that 1000 blocks of every definition allocate, as JSON on standard output. Run as a bundle with
 * --expose-gc: only there does the compiler see the code as it is shipped. With names as arguments only those
 * are measured; the others run as well, since shared code is compiled for all its callers.
 */
const names = process.argv.slice(2)
const gc = (globalThis as unknown as { gc: () => void }).gc
const found: Record<string, number> = {}

/**
 * What the loop itself allocates shows in every window; what runs before the compiler is done with it, beside
 * other work, in the first ones only.
 */
function measure(name: string, block: () => void): void {
  const isWanted = names.length === 0 || names.includes(name)
  for (let i = 0; i < (isWanted ? 3000 : 300); i++) block()
  if (!isWanted) return
  let least = Infinity
  for (let w = 0; w < 20 && (w < 6 || least > 2e6); w++) {
    gc()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < 1000; i++) block()
    least = Math.min(least, process.memoryUsage().heapUsed - before)
  }
  found[name] = least
}

const sound = noise(BLOCK / RATE + 0.001)
const song = songBlock()
song.playing = true
song.beatsPerFrame = 2 / RATE
function advance(): void {
  const from = song.frames[BLOCK - 1] ?? 0
  for (let i = 0; i < BLOCK; i++) {
    song.frames[i] = from + 1 + i
    song.beats[i] = (from + 1 + i) * song.beatsPerFrame
  }
}

for (const d of effects) {
  for (const moving of [false, true]) {
    const r = effectRig(d.id)
    r.io.in.left.set(sound.subarray(0, BLOCK))
    r.io.in.right.set(sound.subarray(0, BLOCK))
    if (moving) shake(r.params, 0)
    measure(`${d.id}${moving ? ', moving' : ''}`, () => r.processor.process(r.io, r.params.blocks as never))
  }
}
const bent = [
  { x: 0, y: 0, bend: 0.5 },
  { x: 0.4, y: 1, bend: -0.5 },
  { x: 1, y: 0, bend: 0 },
]
for (const d of modulators) {
  // as it comes, and by each of its choices
  const ways = [
    {},
    ...Object.entries(d.params).flatMap(([name, spec]) =>
      spec.unit === 'choice' ? Array.from({ length: spec.max }, (_, k) => ({ [name]: k + 1 })) : [],
    ),
  ]
  for (const values of ways) {
    const r = modulatorRig(d.id, values, { data: { shape: bent, points: bent } })
    r.io.side.left.set(sound.subarray(0, BLOCK))
    measure(`modulator ${d.id} ${JSON.stringify(values)}`, r.block)
  }
}
for (const change of [
  {},
  { mode: 'fixed' as const },
  { curve: 0.4 },
  { slewUp: 0.1 },
  { quantise: { to: 'steps' as const, steps: 8 } },
]) {
  const source = new ParamBlock(0)
  for (let i = 0; i < BLOCK; i++) source.buffer[i] = 0.5 + 0.4 * Math.sin(0.005 * i)
  source.move()
  const link = { ...newLink('m', 'wave', { owner: 'o', param: 'p' }, 0.1, 0.4, 'k'), ...change }
  const { cutoff } = effects.find((e) => e.id === 'filter')?.params ?? {}
  if (!cutoff) throw new Error('The filter has no cutoff.')
  const state = new ParamState(cutoff, 800, RATE)
  state.setLinks([
    new LinkState(link, source, cutoff, new ParamSet(linkParams, linkSettings(link), RATE), RATE),
  ])
  state.reset()
  measure(`link ${JSON.stringify(change)}`, () => state.update())
}
for (const d of sources) {
  const rig = sourceRig(d, {}, { channels: [noise(1)], sounds: [[noise(1)]] })
  const { notes } = rig.io
  let block = 0
  measure(`source ${d.id}`, () => {
    advance()
    notes.count = 0
    // a note every twelfth block, each let go six blocks later
    if (block % 6 === 0) rig.note(36 + (block % 5), block % 12 === 0 ? 0.7 : 0)
    block++
    rig.processor.process({ ...rig.io, song }, rig.params.blocks as never)
  })
}
console.log(JSON.stringify(found))
