import { combine } from './combine'
import { controller } from './controller'
import { curve } from './curve'
import { drift } from './drift'
import { envelope } from './envelope'
import { follower } from './follower'
import { lfo } from './lfo'
import { macro } from './macro'
import { morph } from './morph'
import { notes } from './notes'
import { pitchTracker } from './pitch-tracker'
import { steps } from './steps'
import type { ModulatorDefinition } from '../contract/modulator'

/** Every modulator there is, in menu order. Adding one is a file beside these and a line here. */
export const modulatorsBuiltIn: readonly ModulatorDefinition[] = [
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
].map((d) => d as unknown as ModulatorDefinition)
