import { allPass } from './all-pass'
import { chorus } from './chorus'
import { comb } from './comb'
import { compressor } from './compressor'
import { convolver } from './convolver'
import { crush } from './crush'
import { delay } from './delay'
import { drive } from './drive'
import { eq } from './eq'
import { filter } from './filter'
import { flanger } from './flanger'
import { folder } from './folder'
import { frequencyShift } from './frequency-shift'
import { gainEffect } from './gain'
import { gate } from './gate'
import { grains } from './grains'
import { limiter } from './limiter'
import { noiseLayer } from './noise-layer'
import { phaser } from './phaser'
import { pitch } from './pitch'
import { resonators } from './resonators'
import { reverb } from './reverb'
import { ring } from './ring'
import { shaper } from './shaper'
import { stereo } from './stereo'
import { stutter } from './stutter'
import { taps } from './taps'
import { transient } from './transient'
import { tremolo } from './tremolo'
import { varispeed } from './varispeed'
import { vocoder } from './vocoder'
import { vowel } from './vowel'
import { wow } from './wow'
import type { EffectDefinition } from '../contract/effect'

/**
 * Every effect there is, in the order in which menus list them. Adding one is a file beside these and a line
 * here.
 */
export const effectsBuiltIn: readonly EffectDefinition[] = [
  gainEffect,
  stereo,
  tremolo,
  filter,
  eq,
  vowel,
  vocoder,
  allPass,
  comb,
  resonators,
  phaser,
  drive,
  folder,
  shaper,
  crush,
  ring,
  noiseLayer,
  compressor,
  gate,
  limiter,
  transient,
  delay,
  taps,
  chorus,
  flanger,
  wow,
  varispeed,
  stutter,
  grains,
  pitch,
  frequencyShift,
  reverb,
  convolver,
].map((d) => d as unknown as EffectDefinition)
