import { FRACTION } from '../dsp/fraction'
import { exp2, sinCycles } from '../dsp/math'
import { type Octaves, octavePieces, octavesOf } from '../dsp/octaves'
import { prepareReader, readPitched } from '../dsp/pitched-reader'
import { plainWave, plainWaves, preparePlainWaves } from '../dsp/plain-wave'
import { Random } from '../dsp/random'
import { VoiceEnvelope } from '../dsp/voice-envelope'
import { BLOCK, type NoteBlock, type ParamBlock, type StereoBlock } from '../contract/block'
import { choice, factor, gain, note, number, percent, seconds, semitones, toggle } from '../units/parameter'
import { defineSource } from '../contract/source'

/** Voices that can be held, and as many again that are being cut to make room. */
const VOICES = 16
const SLOTS = 2 * VOICES
const COPIES = 16
/** Readers that sound at once: with 16 copies each, four notes. */
const READERS = 64
const HELD = 32
/** Time in which a voice that gives its place to another falls silent. */
const CUT_SECONDS = 0.004
/** Time in which what needs no key falls silent when the song stops. */
const STOP_SECONDS = 0.05
/** Frames over which a sound that is not looped ends. */
const END_FADE = 64
const SOUND = 0
const NOISE = plainWaves.length + 1
const ALWAYS = 1
const BY_RATE = 1

type Params = Readonly<
  Record<
    | 'plays'
    | 'width'
    | 'root'
    | 'tune'
    | 'follow'
    | 'bendRange'
    | 'start'
    | 'end'
    | 'loop'
    | 'loopFrom'
    | 'crossFade'
    | 'whole'
    | 'voices'
    | 'overlap'
    | 'glide'
    | 'glideBy'
    | 'glides'
    | 'copies'
    | 'detune'
    | 'spread'
    | 'attack'
    | 'decay'
    | 'sustain'
    | 'release'
    | 'curve'
    | 'toLevel'
    | 'toStart'
    | 'level',
    ParamBlock
  >
>

/** One note that sounds. */
class Voice {
  readonly envelope = new VoiceEnvelope()
  /** Reading places in frames of the sound, or phases of the wave, of its copies. */
  readonly places = new Float64Array(COPIES)
  /** Number of the note that it plays, and its pitch. */
  id = 0
  note = -1
  /** How many notes had begun with it. */
  begun = 0
  /** Whether its key is down; what plays to its end sounds on without. */
  isDown = false
  pitch = FRACTION
  goal = FRACTION
  /** Semitones a frame while it glides. */
  slope = FRACTION
  gain = FRACTION
  copies = 1
}

/**
 * A sound, or a plain wave, played by the notes of its track: one voice with glide, or up to sixteen, each of
 * up to sixteen detuned copies. Sounds are read band-limited at any speed, waves are made of band-limited
 * edges. A glide is straight in semitones.
 */
export const playedSource = defineSource({
  id: 'played',
  name: 'Played sound',
  tip: 'A sound or a plain wave, played by notes',
  audio: true,
  fromSound: 'played by notes',
  begins: {
    label: 'Played wave',
    tip: 'A wave that its notes play; a sound can take its place',
    track: 'Played',
    // a wave, until there is a sound
    params: { plays: 3 },
  },
  notes: true,
  load: { kB: 64, ns: 2600 },
  readouts: ['voices', 'note'],
  params: {
    plays: choice('Plays', ['sound', ...plainWaves, 'noise'], SOUND, 'A sound of the project, or a wave'),
    width: percent('Width', { min: 0.02, max: 0.98, default: 0.5, tip: 'High part of the pulse' }),
    root: note('Root', {
      min: 0,
      max: 127,
      default: 60,
      tip: 'The note at which the sound plays as recorded',
      glide: 0,
    }),
    tune: semitones('Tune', { min: -48, max: 48, default: 0, tip: 'Transposes all notes, in semitones' }),
    follow: percent('Key follow', {
      min: 0,
      max: 2,
      default: 1,
      tip: 'How far the pitch follows the keys, about the root',
    }),
    bendRange: number('Bend range', {
      min: 0,
      max: 48,
      default: 2,
      tip: 'Semitones that a full bend moves the pitch',
    }),
    start: percent('Start', { default: 0, tip: 'Where a note begins in the sound' }),
    end: percent('End', { default: 1, tip: 'Where the sound ends, or the loop does', edit: 'exchanged' }),
    loop: toggle('Loop', true, 'Repeats the sound as long as the key is down'),
    loopFrom: percent('Loop from', { default: 0, tip: 'Where the loop goes back to', edit: 'exchanged' }),
    crossFade: seconds('Cross-fade', {
      min: 0,
      max: 2,
      default: 0,
      tip: 'How long the end of the loop fades into its beginning',
    }),
    whole: toggle('To its end', false, 'A sound that is not looped plays to its end, however short the note'),
    voices: number('Voices', {
      min: 1,
      max: VOICES,
      default: 8,
      glide: 0,
      tip: 'Notes at once; 1 lets the last note lead, as long as keys are down',
    }),
    overlap: choice(
      'Overlap',
      ['begins anew', 'goes on'],
      0,
      'With one voice: whether a note that is played while another is held begins anew',
    ),
    glide: seconds('Glide', { min: 0, max: 10, default: 0, tip: 'Time from note to note, or for an octave' }),
    glideBy: choice(
      'Glide by',
      ['time', 'rate'],
      0,
      'The same time for every distance, or the same time an octave',
    ),
    glides: choice(
      'Glides',
      ['while held', 'always'],
      0,
      'Only from a note that is still held, or from the last one anyway',
    ),
    copies: number('Copies', {
      min: 1,
      max: COPIES,
      default: 1,
      glide: 0,
      tip: 'Detuned copies of each note; 64 sound at once, so 16 copies leave four notes',
    }),
    detune: semitones('Detune', {
      min: 0,
      max: 2,
      default: 0.15,
      tip: 'Distance of the outermost copies from the note',
    }),
    spread: percent('Spread', { default: 0.5, tip: 'How far the copies stand apart between left and right' }),
    attack: seconds('Attack', { min: 0, max: 10, default: 0.002, tip: 'Time to full level' }),
    decay: seconds('Decay', {
      min: 0,
      max: 20,
      default: 0.3,
      tip: 'Time from full level to the sustained one',
    }),
    sustain: percent('Sustain', { default: 1, tip: 'Level while the key is down' }),
    release: seconds('Release', { min: 0, max: 20, default: 0.06, tip: 'Time to silence after the key' }),
    curve: factor('Curve', {
      min: -1,
      max: 1,
      default: 0.5,
      tip: 'Whether the envelope begins slowly (−1), straight (0) or fast (1)',
    }),
    toLevel: percent('Velocity to level', { default: 0.6, tip: 'How much softer soft notes are' }),
    toStart: percent('Velocity to start', {
      default: 0,
      tip: 'How much later in the sound soft notes begin',
    }),
    level: gain('Level', { min: -72, max: 24, default: -6, tip: 'Level before the chain' }),
  },
  tail: (v) => 0.05 + (v.release ?? 0),
  unseen: 'what its notes play',
  summary: (is) =>
    is.value('plays') === SOUND ? `played · ${is.sound || 'no sound'}` : `played · ${is.text('plays')}`,
  *prepare(audio) {
    if (audio) yield* octavePieces(audio)
    prepareReader()
    preparePlainWaves()
  },
  create: ({ sampleRate, seed }) => {
    const random = new Random(seed)
    const voices = Array.from({ length: SLOTS }, () => new Voice())
    const heldIds = new Float64Array(HELD)
    const heldNotes = new Float64Array(HELD)
    const pair = new Float64Array(2)
    const factors = new Float64Array(COPIES)
    const lefts = new Float64Array(COPIES)
    const rights = new Float64Array(COPIES)
    const ratios = new Float64Array(BLOCK)
    const readouts = new Float64Array(2)
    // how many keys are down, notes begun so far, pitch that the next glide comes from (−1 for none)
    const state = new Float64Array(3)
    let sounding = 0
    let wasPlaying = false
    // of the block at work
    let p!: Params
    let out!: StereoBlock
    let notes!: NoteBlock
    let sound: Octaves | null = null
    let frames = 0
    const cutFrames = CUT_SECONDS * sampleRate

    const press = (id: number, pitch: number, velocity: number): void => {
      if (state[0] === HELD) lift(heldIds[0])
      heldIds[state[0]] = id
      heldNotes[state[0]++] = pitch
      const most = Math.max(
        1,
        Math.min(Math.round(p.voices.value), Math.floor(READERS / Math.round(p.copies.value))),
      )
      const overlaps = state[0] > 1
      if (most === 1 && overlaps && p.overlap.value === 1) {
        const voice = newest(true)
        if (voice) {
          voice.id = id
          voice.note = pitch
          glideTo(voice, pitch, overlaps)
          return
        }
      }
      makeRoom(most)
      begin(id, pitch, velocity, overlaps)
    }

    /** Takes the key of a note up; gives whether it was down. */
    const lift = (id: number): boolean => {
      for (let k = 0; k < state[0]; k++) {
        if (heldIds[k] !== id) continue
        heldIds.copyWithin(k, k + 1, state[0])
        heldNotes.copyWithin(k, k + 1, state[0])
        state[0]--
        return true
      }
      return false
    }

    const letGo = (id: number): void => {
      if (!lift(id)) return
      const last = state[0] - 1
      const leader = Math.round(p.voices.value) === 1 && last >= 0 ? newest(true) : undefined
      for (let k = 0; k < SLOTS; k++) {
        const voice = voices[k]
        if (voice.id !== id) continue
        // the note before it, whose key is still down, leads again
        if (voice === leader) {
          voice.id = heldIds[last]
          voice.note = heldNotes[last]
          glideTo(voice, voice.note, true)
        } else voice.isDown = false
      }
    }

    /** The voice that began last and sounds; of those held only, where asked for. */
    const newest = (held: boolean): Voice | undefined => {
      let found: Voice | undefined
      for (let k = 0; k < SLOTS; k++) {
        const { envelope, begun } = voices[k]
        if (
          (held ? envelope.isHeld : envelope.isOn && !envelope.isCut) &&
          (found === undefined || begun > found.begun)
        )
          found = voices[k]
      }
      return found
    }

    /** Cuts voices until one more may begin: those let go first, then the oldest. */
    const makeRoom = (most: number): void => {
      for (;;) {
        let count = 0
        let oldest: Voice | undefined
        for (let k = 0; k < SLOTS; k++) {
          const voice = voices[k]
          if (!voice.envelope.isOn || voice.envelope.isCut) continue
          count++
          if (
            oldest === undefined ||
            (oldest.envelope.isHeld === voice.envelope.isHeld
              ? voice.begun < oldest.begun
              : oldest.envelope.isHeld)
          )
            oldest = voice
        }
        if (count < most || oldest === undefined) return
        oldest.envelope.cut(cutFrames)
      }
    }

    /** A slot that is free, or the one that is nearest to silence. */
    const free = (): Voice => {
      let best = voices[0]
      for (let k = 0; k < SLOTS; k++) {
        if (!voices[k].envelope.isOn) return voices[k]
        if (
          voices[k].envelope.isCut &&
          (!best.envelope.isCut || voices[k].envelope.level < best.envelope.level)
        )
          best = voices[k]
      }
      return best
    }

    const begin = (id: number, pitch: number, velocity: number, overlaps: boolean): void => {
      const voice = free()
      voice.envelope.reset()
      voice.envelope.sustain = p.sustain.value
      voice.envelope.begin(p.attack.value * sampleRate, p.decay.value * sampleRate, p.curve.value)
      voice.id = id
      voice.note = pitch
      voice.begun = ++state[1]
      voice.isDown = true
      voice.copies = Math.max(1, Math.round(p.copies.value))
      voice.gain = 1 - p.toLevel.value * (1 - velocity * velocity)
      const from = p.start.value + (p.end.value - p.start.value) * p.toStart.value * (1 - velocity)
      voice.places.fill(Math.min(0.999999, Math.max(0, from)) * frames)
      if (p.plays.value !== SOUND)
        for (let c = 0; c < voice.copies; c++) voice.places[c] = c === 0 ? 0 : random.next()
      else for (let c = 0; c < voice.copies; c++) voice.places[c] = Math.floor(voice.places[c])
      voice.pitch = state[2] >= 0 ? state[2] : pitch
      voice.slope = 0
      glideTo(voice, pitch, overlaps)
    }

    const glideTo = (voice: Voice, pitch: number, overlaps: boolean): void => {
      const way = pitch - voice.pitch
      voice.goal = pitch
      const seconds = p.glide.value * (p.glideBy.value === BY_RATE ? Math.abs(way) / 12 : 1)
      voice.slope =
        way === 0 || seconds * sampleRate < 1 || !(overlaps || p.glides.value === ALWAYS)
          ? 0
          : way / (seconds * sampleRate)
      if (voice.slope === 0) voice.pitch = pitch
      state[2] = voice.pitch
    }

    /** Adds frames `from` to `to` of a voice. */
    const render = (voice: Voice, from: number, to: number): void => {
      const { envelope, places, copies } = voice
      const wave = p.plays.value
      if (wave === SOUND && !sound) {
        envelope.reset()
        return
      }
      pitches(voice, from, to)
      place(copies)
      envelope.sustain = p.sustain.value
      const loops = p.loop.value >= 0.5
      if (!voice.isDown && (loops || wave !== SOUND || p.whole.value < 0.5))
        envelope.release(p.release.value * sampleRate)
      const end = Math.max(p.end.value * frames, 2)
      const fade = loops ? Math.min(p.crossFade.value * sampleRate, end / 2) : 0
      // a fade needs sound before the place that it goes back to
      const back = Math.min(Math.max(p.loopFrom.value * frames, fade), end - 2)
      const widths = p.width.values()
      for (let i = from; i < to; i++) {
        const g = envelope.next() * voice.gain
        let l = 0
        let r = 0
        for (let c = 0; c < copies; c++) {
          const step = ratios[i] * factors[c]
          if (wave === SOUND && sound) {
            const at = places[c]
            if (at >= end) continue
            readPitched(sound, at, step, pair)
            let a = pair[0]
            let b = pair[1]
            if (loops && at > end - fade) {
              const way = (at - end + fade) / fade
              const leaving = sinCycles(0.25 * (1 - way))
              readPitched(sound, at - end + back, step, pair)
              const coming = sinCycles(0.25 * way)
              a = a * leaving + pair[0] * coming
              b = b * leaving + pair[1] * coming
            } else if (!loops && end - at < END_FADE * step) {
              const w = (end - at) / (END_FADE * step)
              a *= w
              b *= w
            }
            l += a * lefts[c]
            r += b * rights[c]
            let next = at + step
            if (loops) while (next >= end) next -= end - back
            places[c] = next
          } else {
            const y =
              wave === NOISE
                ? random.bipolar()
                : plainWave(wave - 1, places[c], step < 0.5 ? step : 0.5, widths[i])
            l += y * lefts[c]
            r += y * rights[c]
            const next = places[c] + step
            places[c] = next - Math.floor(next)
          }
        }
        out.left[i] += l * g
        out.right[i] += r * g
        if (!envelope.isOn) break
      }
      if (wave === SOUND && !loops && places[0] >= end) envelope.reset()
    }

    /** Speeds of a voice, or cycles a frame of its wave. */
    const pitches = (voice: Voice, from: number, to: number): void => {
      const bends = notes.bend
      const base = p.plays.value === SOUND ? 0 : p.root.value - 69
      const unit = p.plays.value === SOUND ? 1 : 440 / sampleRate
      const still =
        voice.slope === 0 && p.tune.constant && p.follow.constant && bends.constant && p.bendRange.constant
      const root = p.root.value
      if (still) {
        const semis =
          (voice.pitch - root) * p.follow.value + p.tune.value + (bends.value - 0.5) * 2 * p.bendRange.value
        ratios.fill(unit * (semis + base === 0 ? 1 : exp2((semis + base) / 12)), from, to)
        return
      }
      const tunes = p.tune.values(),
        follows = p.follow.values(),
        bent = bends.values(),
        ranges = p.bendRange.values()
      for (let i = from; i < to; i++) {
        if (voice.slope !== 0) {
          voice.pitch += voice.slope
          if (voice.slope > 0 ? voice.pitch >= voice.goal : voice.pitch <= voice.goal) {
            voice.pitch = voice.goal
            voice.slope = 0
          }
        }
        ratios[i] =
          unit *
          exp2(((voice.pitch - root) * follows[i] + tunes[i] + (bent[i] - 0.5) * 2 * ranges[i] + base) / 12)
      }
      state[2] = voice.pitch
    }

    /** Where copies stand: their detuning as a factor of speed, and their gains on both sides. */
    const place = (copies: number): void => {
      const whole = 1 / Math.sqrt(copies)
      for (let c = 0; c < copies; c++) {
        const way = copies > 1 ? (2 * c) / (copies - 1) - 1 : 0
        factors[c] = way === 0 ? 1 : exp2((way * p.detune.value) / 12)
        // neighbours in pitch stand on opposite sides
        const side = p.spread.value * way * (c % 2 === 0 ? 1 : -1)
        lefts[c] = whole * (side > 0 ? 1 - side : 1)
        rights[c] = whole * (side < 0 ? 1 + side : 1)
      }
    }

    return {
      readouts,
      reset() {
        random.reset()
        for (const voice of voices) {
          voice.envelope.reset()
          voice.id = 0
          voice.note = -1
        }
        state.fill(0)
        state[2] = -1
        sounding = 0
        wasPlaying = false
        readouts.fill(0)
      },
      process(io, params) {
        p = params
        ;({ out, notes } = io)
        out.left.fill(0)
        out.right.fill(0)
        // with the song, what plays to its end stops as well
        if (wasPlaying && !io.song.playing)
          for (let k = 0; k < SLOTS; k++)
            if (!voices[k].isDown) voices[k].envelope.cut(STOP_SECONDS * sampleRate)
        wasPlaying = io.song.playing
        if (sounding === 0 && notes.count === 0) return
        const { audio } = io
        sound = audio?.channels[0]?.length ? octavesOf(audio) : null
        frames = sound ? sound.frames : 0
        let at = 0
        for (let e = 0; e <= notes.count; e++) {
          const until = e < notes.count ? notes.frame[e] : BLOCK
          if (until > at) {
            for (let k = 0; k < SLOTS; k++) if (voices[k].envelope.isOn) render(voices[k], at, until)
            at = until
          }
          if (e === notes.count) break
          if (notes.begins[e] === 1) press(notes.id[e], notes.pitch[e], notes.velocity[e])
          else letGo(notes.id[e])
        }
        const levels = p.level.values()
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] *= levels[i]
          out.right[i] *= levels[i]
        }
        sounding = 0
        for (let k = 0; k < SLOTS; k++) if (voices[k].envelope.isOn) sounding++
        readouts[0] = sounding
        readouts[1] = state[2]
      },
    }
  },
})
