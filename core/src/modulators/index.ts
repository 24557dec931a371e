import { combine } from './combine'
import { controller } from './controller'
import { curve } from './curve'
import { drift } from './drift'
import { envelope } from './envelope'
import { follower } from './follower'
import { lfo } from './lfo'
import { macro } from './macro'
import { offered } from '../contract/offered-parts'
import { morph } from './morph'
import { notes } from './notes'
import { pitchTracker } from './pitch-tracker'
import { steps } from './steps'
import type { ModulatorDefinition } from '../contract/modulator'

/** Every modulator there is, in menu order. Adding one is a file beside these and a line here. */
export const modulators: readonly ModulatorDefinition[] = [
  lfo,
  drift,
  steps,
  envelope,
  follower,
  curve,
  notes,
  controller,
  pitchTracker,
  combine,
  macro,
  morph,
  ...offered('modulators'),
].map((d) => d as unknown as ModulatorDefinition)

const byId = new Map(modulators.map((d) => [d.id, d]))

export const modulatorDefinition = (id: string): ModulatorDefinition | undefined => byId.get(id)
