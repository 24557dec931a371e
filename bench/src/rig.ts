import type { EffectDefinition, EffectProcessor } from '@oleaje/core/contract/effect'
import {
  type LaneBlocks,
  type NoteBlock,
  type StereoBlock,
  noteBlock,
  songBlock,
  stereoBlock,
} from '@oleaje/core/contract/block'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import type { LaneValues } from '@oleaje/core/units/lane'

export const RATE = 48_000
const song = songBlock()
song.beatsPerFrame = 96 / 60 / RATE

/** An effect alone, with all that the engine would give it. */
export interface Rig {
  readonly processor: EffectProcessor<never>
  readonly params: ParamSet
  readonly io: {
    in: StereoBlock
    out: StereoBlock
    side: StereoBlock
    song: typeof song
    notes: NoteBlock
    lanes: LaneBlocks
  }
}

export function rig(
  definition: EffectDefinition,
  values: Record<string, number> = {},
  lanes?: LaneValues,
): Rig {
  const input = stereoBlock()
  const params = new ParamSet(
    { ...definition.params, ...commonParams },
    values,
    RATE,
    definition.lanes,
    lanes,
  )
  params.update()
  return {
    processor: definition.create({
      sampleRate: RATE,
      seed: 1,
      latency: definition.latency?.(RATE, values),
    }) as never,
    params,
    io: { in: input, out: stereoBlock(), side: input, song, notes: noteBlock(), lanes: params.laneBlocks },
  }
}

/** One block. */
export const run = (r: Rig): void => r.processor.process(r.io as never, r.params.blocks as never)
