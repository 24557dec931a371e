import type { AudioData } from '../contract/audio'
import { BLOCK } from '../contract/block'
import { prepareKernels } from '../dsp/simd/kernel-memory'
import { effects } from '../effects/index'
import { Engine } from '../engine/engine'
import type { Project } from '../project/schema'
import { findOwner } from '../project/walk'
import type { ChainData } from './chain-export'

/** Plays an exported chain block by block, with the engine that plays it in the app. */
export class ChainPlayer {
  private readonly engine: Engine
  private project: Project

  /** @param sampleRate of the host in Hz, 44,100 to 96,000 */
  constructor(
    private readonly chain: Pick<ChainData, 'project' | 'macros' | 'track'>,
    sampleRate: number,
    audio: (hash: string) => AudioData | null = () => null,
  ) {
    if (!(sampleRate >= 44_100 && sampleRate <= 96_000))
      throw new RangeError(`The chain plays at 44,100 to 96,000 Hz, not at ${sampleRate}.`)
    prepareKernels()
    for (const { prepare } of effects) prepare?.()
    this.project = { ...(JSON.parse(JSON.stringify(chain.project)) as Project), sampleRate }
    this.engine = new Engine({ sampleRate, audio, looping: false })
    this.engine.load(this.project)
    this.engine.play(0)
  }

  /** Frames by which the output is late. */
  get latency(): number {
    return this.engine.latency
  }

  /** Moves a macro to a place 0…1, by a short glide. */
  setMacro(index: number, value: number): void {
    const id = this.chain.macros[index]?.id
    const found = id === undefined ? undefined : findOwner(this.project, id)
    if (id === undefined || found?.kind !== 'modulator' || !Number.isFinite(value)) return
    const bounded = Math.min(1, Math.max(0, value))
    found.modulator.params.value = bounded
    this.engine.setValue(this.project, id, 'value', bounded)
  }

  /** @param tempo in bpm, 20 to 300 */
  setTempo(tempo: number): void {
    if (!Number.isFinite(tempo)) return
    this.project = { ...this.project, tempo: Math.min(300, Math.max(20, tempo)) }
    this.engine.update(this.project)
  }

  /** Plays the song position, which synced effects and modulators follow, from a beat on. */
  restart(beat: number): void {
    if (Number.isFinite(beat)) this.engine.play(Math.max(0, beat))
  }

  /**
   * A note for sources, envelopes and gates; velocity 0 ends it.
   * @param delay frames after the start of the next block
   */
  note(pitch: number, velocity: number, delay = 0): void {
    if (Number.isFinite(pitch) && Number.isFinite(velocity))
      this.engine.note(this.chain.track, pitch, velocity, Math.max(0, Math.round(delay)))
  }

  /** One block of 128 frames. Without input there is silence at the input. */
  process(
    inLeft: Float32Array | undefined,
    inRight: Float32Array | undefined,
    left: Float32Array,
    right: Float32Array,
  ): void {
    const { input, mix } = this.engine
    if (inLeft) input.left.set(inLeft)
    else input.left.fill(0)
    if (inRight) input.right.set(inRight)
    else input.right.fill(0)
    this.engine.process(left, right)
    left.set(mix.left)
    right.set(mix.right)
  }
}

/** Frames of a block. */
export const CHAIN_BLOCK = BLOCK
