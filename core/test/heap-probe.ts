import { effects } from '@oleaje/core/effects/index'
import { BLOCK, songBlock, stereoBlock } from '@oleaje/core/engine/block'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { modulators } from '@oleaje/core/modulators/index'
import { sources } from '@oleaje/core/sources/index'
import { RATE, effectRig, modulatorRig, noise, shake } from './rig'

/**
 * Bytes that 1000 blocks of every definition allocate, as JSON on standard output. Run as a bundle with --expose-gc: only
 * there does the compiler see the code as it is shipped.
 */
const gc = (globalThis as unknown as { gc: () => void }).gc
const found: Record<string, number> = {}

/** What the loop itself allocates shows in every window; what the compiler does beside it, in some only. */
function measure(name: string, block: () => void): void {
  for (let i = 0; i < 3000; i++) block()
  let least = Infinity
  for (let w = 0; w < 6; w++) {
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
for (const d of modulators) {
  const r = modulatorRig(d.id)
  r.io.side.left.set(sound.subarray(0, BLOCK))
  measure(`modulator ${d.id}`, r.block)
}
for (const d of sources) {
  const params = new ParamSet(d.params, {}, RATE)
  const processor = d.create({ sampleRate: RATE, seed: 3 })
  processor.reset()
  const io = { out: stereoBlock(), song, audio: { sampleRate: RATE, channels: [noise(1)] }, input: stereoBlock() }
  measure(`source ${d.id}`, () => {
    advance()
    processor.process(io, params.blocks as never)
  })
}
console.log(JSON.stringify(found))
