import { FRACTION } from '../dsp/fraction'
import { exp2 } from '../dsp/math'
import { type Octaves, octavePieces, octavesOf } from '../dsp/octaves'
import { prepareReader, readPitched } from '../dsp/pitched-reader'
import { VoiceEnvelope } from '../dsp/voice-envelope'
import { BLOCK, type ParamBlock, type StereoBlock } from '../contract/block'
import { type SourceBlock, defineSource } from '../contract/source'
import { gain, note, number, pan, percent, seconds, semitones } from '../units/parameter'

/** Most pads of a kit. */
export const MOST_PADS = 16
/** The same pad struck again fades what still sounds of it: two voices a pad. */
const VOICES = 2
/** Time in which a pad falls silent that is struck again or choked. */
const CUT_SECONDS = 0.005
/** Time in which they fall silent when the song stops. */
const STOP_SECONDS = 0.05
/** Frames over which a sound ends. */
const END_FADE = 64
/** The note of the first pad: C2. */
export const FIRST_PAD = 36

/** Data of a pad: its name and its sound. */
export interface Pad {
  readonly name: string
  readonly audio: string | null
}

/** The pads of a kit as stored in its data. */
export function readPads(data: Readonly<Record<string, unknown>> | undefined): readonly Pad[] {
  const raw = data?.pads
  return Array.isArray(raw)
    ? raw.slice(0, MOST_PADS).map((p: unknown, i) => {
        const pad = (typeof p === 'object' && p !== null ? p : {}) as { name?: unknown; audio?: unknown }
        return {
          name: typeof pad.name === 'string' ? pad.name.slice(0, 60) : `pad ${i + 1}`,
          audio: typeof pad.audio === 'string' ? pad.audio : null,
        }
      })
    : []
}

const padParams = {
  note: note('Note', { min: 0, max: 127, default: FIRST_PAD, tip: 'Note that plays the pad', glide: 0 }),
  level: gain('Level', { min: -72, max: 12, default: 0, tip: 'Level of the pad' }),
  pan: pan('Pan', { tip: 'Pan position' }),
  tune: semitones('Tune', { min: -36, max: 36, default: 0, tip: 'Speed and pitch together, in semitones' }),
  length: seconds('Length', {
    min: 0.005,
    max: 20,
    default: 20,
    tip: 'Time after which the sound fades out',
  }),
  choke: number('Choke group', {
    min: 0,
    max: 8,
    default: 0,
    zero: 'none',
    tip: 'Pads of one group cut each other off',
    glide: 0,
  }),
}

class Strike {
  readonly envelope = new VoiceEnvelope()
  /** Reading place in frames of the sound. */
  at = FRACTION
  gain = FRACTION
  /** Frames until it is faded out. */
  left = FRACTION
}

/**
 * Up to sixteen pads, each a sound that its note strikes and that plays to its end. All together come out of
 * the main output, each pad also by itself, so that a split of kind *pads* can give it a chain of its own.
 */
export const kitSource = defineSource({
  id: 'kit',
  name: 'Kit',
  tip: 'Pads played by notes, keys or a click, each with its own sound',
  fromSound: 'Pads of a new kit',
  pads: true,
  notes: true,
  load: { kB: 160, ns: 3200 },
  readouts: Array.from({ length: MOST_PADS }, (_, i) => `pad${i}`),
  outputs: Array.from({ length: MOST_PADS }, (_, i) => `pad ${i + 1}`),
  params: {
    tune: semitones('Tune', {
      min: -24,
      max: 24,
      default: 0,
      tip: 'Speed and pitch of all pads, in semitones',
    }),
    toLevel: percent('Velocity to level', { default: 0.8, tip: 'How much quieter soft hits are' }),
    level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
  },
  lanes: {
    pads: {
      name: 'Pads',
      item: 'pad',
      least: 1,
      most: MOST_PADS,
      params: padParams,
      initial: [{ note: FIRST_PAD }],
    },
  },
  sounds: (data) => readPads(data).map((pad) => pad.audio),
  unseen: 'the pads that its notes play',
  summary: (is) => `kit · ${is.count('pads')} pads`,
  *prepare(audio) {
    if (audio) yield* octavePieces(audio)
    prepareReader()
  },
  create: ({ sampleRate }) => {
    const strikes: readonly Strike[] = Array.from({ length: MOST_PADS * VOICES }, () => new Strike())
    const pair = new Float64Array(2)
    const readouts = new Float64Array(MOST_PADS)
    const speeds = new Float64Array(BLOCK)
    const cutFrames = CUT_SECONDS * sampleRate
    let sounding = 0
    // state of the present block
    let pads!: SourceBlock['lanes'][string]
    let tunes!: ParamBlock
    let toLevel = FRACTION
    let wasPlaying = false

    /** A pad begins; what still sounds of it and of its choke group ends. */
    const strike = (k: number, velocity: number): void => {
      const group = Math.round(pads[k].choke.value)
      for (let other = 0; other < pads.length; other++) {
        if (other !== k && (group === 0 || Math.round(pads[other].choke.value) !== group)) continue
        for (let v = 0; v < VOICES; v++) strikes[other * VOICES + v].envelope.cut(cutFrames)
      }
      let fresh = strikes[k * VOICES]
      for (let v = 0; v < VOICES; v++) {
        const known = strikes[k * VOICES + v]
        if (!known.envelope.isOn) {
          fresh = known
          break
        }
        if (known.envelope.level < fresh.envelope.level) fresh = known
      }
      fresh.envelope.reset()
      fresh.envelope.sustain = 1
      fresh.envelope.begin(0, 0, 0)
      fresh.at = 0
      fresh.gain = 1 - toLevel * (1 - velocity * velocity)
      fresh.left = pads[k].length.value * sampleRate
      sounding++
    }

    /** Adds frames `from` to `to` of a strike to its pad's output. */
    const render = (
      k: number,
      voice: Strike,
      sound: Octaves,
      into: StereoBlock,
      from: number,
      to: number,
    ): void => {
      const { envelope } = voice
      const own = pads[k].tune
      const still = own.constant && tunes.constant
      if (still) speeds.fill(tuned(own.value + tunes.value), from, to)
      else {
        const a = own.values()
        const b = tunes.values()
        for (let i = from; i < to; i++) speeds[i] = tuned(a[i] + b[i])
      }
      let { at } = voice
      for (let i = from; i < to; i++) {
        const rest = sound.frames - at
        if (rest <= 0 || !envelope.isOn) {
          envelope.reset()
          break
        }
        if (--voice.left < 0) envelope.cut(cutFrames)
        const speed = speeds[i]
        readPitched(sound, at, speed, pair)
        const g = envelope.next() * voice.gain * (rest < END_FADE * speed ? rest / (END_FADE * speed) : 1)
        into.left[i] += pair[0] * g
        into.right[i] += pair[1] * g
        at += speed
      }
      voice.at = at
    }

    return {
      readouts,
      reset() {
        for (const { envelope } of strikes) envelope.reset()
        readouts.fill(0)
        sounding = 0
        wasPlaying = false
      },
      process({ out, outputs, sounds, notes, lanes, song }, p) {
        // with the song its strikes stop as well; what is struck while it stands sounds to its end
        if (wasPlaying && !song.playing)
          for (let k = 0; k < strikes.length; k++) strikes[k].envelope.cut(STOP_SECONDS * sampleRate)
        wasPlaying = song.playing
        pads = lanes.pads
        tunes = p.tune
        toLevel = p.toLevel.value
        for (let k = 0; k < outputs.length; k++) {
          outputs[k].left.fill(0)
          outputs[k].right.fill(0)
        }
        if (sounding === 0 && notes.count === 0) return
        let from = 0
        for (let e = 0; e <= notes.count; e++) {
          const to = e < notes.count ? notes.frame[e] : BLOCK
          if (to > from) {
            for (let k = 0; k < pads.length; k++) {
              const audio = k < sounds.length ? sounds[k] : null
              for (let v = 0; v < VOICES; v++) {
                const voice = strikes[k * VOICES + v]
                if (!voice.envelope.isOn) continue
                if (audio?.channels[0]?.length) render(k, voice, octavesOf(audio), outputs[k + 1], from, to)
                else voice.envelope.reset()
              }
            }
            from = to
          }
          if (e === notes.count) break
          if (notes.begins[e] === 1)
            for (let k = 0; k < pads.length; k++)
              if (Math.round(pads[k].note.value) === notes.pitch[e]) strike(k, notes.velocity[e])
        }
        const levels = p.level.values()
        sounding = 0
        for (let k = 0; k < pads.length; k++) {
          let on = false
          for (let v = 0; v < VOICES; v++) on ||= strikes[k * VOICES + v].envelope.isOn
          if (on) sounding++
          const { left, right } = outputs[k + 1]
          const gains = pads[k].level.values()
          const pans = pads[k].pan.values()
          let peak = 0
          for (let i = 0; i < BLOCK; i++) {
            const g = gains[i] * levels[i]
            const side = pans[i]
            const l = left[i] * (side > 0 ? g * (1 - side) : g)
            const r = right[i] * (side < 0 ? g * (1 + side) : g)
            left[i] = l
            right[i] = r
            out.left[i] += l
            out.right[i] += r
            if (l > peak) peak = l
            if (r > peak) peak = r
          }
          readouts[k] = peak
        }
      },
    }
  },
})

const tuned = (semitones: number): number => (semitones === 0 ? 1 : exp2(semitones / 12))
