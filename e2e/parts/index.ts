import type { OfferedParts } from '@oleaje/core/contract/offered-parts'
import { airlock } from './airlock'
import { bollard } from './bollard'
import { foghorn } from './foghorn'
import { swell } from './swell'
import { z } from 'zod'

// as in the app: its policy forbids code made from text
z.config({ jitless: true })

/** One made-up part of each kind: a file, and a line here. */
const parts: OfferedParts = {
  sources: [foghorn],
  effects: [bollard as never],
  modulators: [swell as never],
  nodes: [airlock],
}
Object.assign(globalThis, { oleajeParts: parts })
