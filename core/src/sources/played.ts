import { FRACTION } from '../dsp/fraction'
import { exp2, sinCycles } from '../dsp/math'
import { type Octaves, octavePieces, octavesOf } from '../dsp/octaves'
import { prepareReader, readPitched } from '../dsp/pitched-reader'
import { plainWave, plainWaves, preparePlainWaves } from '../dsp/plain-wave'
import { Random } from '../dsp/random'
import { VoiceEnvelope } from '../dsp/voice-envelope'
import type { AudioData } from '../contract/audio'
import { BLOCK, type NoteBlock, type ParamBlocks, type StereoBlock } from '../contract/block'
import { choice, factor, gain, note, number, percent, seconds, semitones, toggle } from '../units/parameter'
import { type SourceBlock, type SourceProcessor, defineSource } from '../contract/source'

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

const params = {
  plays: choice('Plays', ['sound', ...plainWaves, 'noise'], SOUND, 'A sound of the project, or a waveform'),
  width: percent('Width', { min: 0.02, max: 0.98, default: 0.5, tip: 'Duty cycle of the pulse' }),
  root: note('Root', {
    min: 0,
    max: 127,
    default: 60,
    tip: 'Note at which the sound plays as recorded',
    glide: 0,
  }),
  tune: semitones('Tune', { min: -48, max: 48, default: 0, tip: 'Transposes all notes, in semitones' }),
  follow: percent('Key follow', {
    min: 0,
    max: 2,
    default: 1,
    tip: 'How far the pitch follows the keys',
  }),
  bendRange: number('Bend range', {
    min: 0,
    max: 48,
    default: 2,
    tip: 'Range of the pitch bend in semitones',
  }),
  start: percent('Start', { default: 0, tip: 'Start position of notes' }),
  end: percent('End', { default: 1, tip: 'End of the sound, or of the loop', edit: 'exchanged' }),
  loop: toggle('Loop', true, 'Loops the sound while the key is held'),
  loopFrom: percent('Loop from', { default: 0, tip: 'Start of the loop', edit: 'exchanged' }),
  crossFade: seconds('Cross-fade', {
    min: 0,
    max: 2,
    default: 0,
    tip: 'Crossfade at the end of the loop',
  }),
  whole: toggle('One-shot', false, 'Plays the sound to its end, however short the note'),
  voices: number('Voices', {
    min: 1,
    max: VOICES,
    default: 8,
    glide: 0,
    tip: 'Notes at once; 1 is monophonic with last-note priority',
  }),
  overlap: choice(
    'Overlap',
    ['retrigger', 'legato'],
    0,
    'With one voice: retriggers overlapping notes, or plays them legato',
  ),
  glide: seconds('Glide', { min: 0, max: 10, default: 0, tip: 'Glide time per note, or per octave' }),
  glideBy: choice('Glide by', ['time', 'rate'], 0, 'Same glide time for every interval, or per octave'),
  glides: choice('Glides', ['while held', 'always'], 0, 'Glides only between held notes, or always'),
  copies: number('Copies', {
    min: 1,
    max: COPIES,
    default: 1,
    glide: 0,
    tip: 'Detuned copies of each note; 64 voices are shared by all notes',
  }),
  detune: semitones('Detune', {
    min: 0,
    max: 2,
    default: 0.15,
    tip: 'Detuning of the outermost copies',
  }),
  spread: percent('Spread', { default: 0.5, tip: 'Stereo spread of the copies' }),
  attack: seconds('Attack', { min: 0, max: 10, default: 0.002, tip: 'Time to full level' }),
  decay: seconds('Decay', {
    min: 0,
    max: 20,
    default: 0.3,
    tip: 'Time to the sustain level',
  }),
  sustain: percent('Sustain', { default: 1, tip: 'Level while the key is held' }),
  release: seconds('Release', {
    min: 0,
    max: 20,
    default: 0.06,
    tip: 'Time to silence after the key is released',
  }),
  curve: factor('Curve', {
    min: -1,
    max: 1,
    default: 0.5,
    tip: 'Curve of the envelope: slow (−1), linear (0) or fast (1)',
  }),
  toLevel: percent('Velocity to level', { default: 0.6, tip: 'How much quieter soft notes are' }),
  toStart: percent('Velocity to start', {
    default: 0,
    tip: 'How much later in the sound soft notes start',
  }),
  level: gain('Level', { min: -72, max: 24, default: -6, tip: 'Level before the chain' }),
}

type Params = ParamBlocks<typeof params>

/**
 * A sound, or a plain wave, played by the notes of its track: one voice with glide, or up to sixteen, each of
 * up to sixteen detuned copies. Sounds are read band-limited at any speed, waves are made of band-limited
 * edges. A glide is straight in semitones.
 */
export const playedSource = defineSource({
  id: 'played',
  name: 'Played sound',
  tip: 'Plays a sound or a waveform by notes',
  audio: true,
  fromSound: 'Played by notes',
  begins: {
    label: 'Played wave',
    tip: 'Plays a waveform by notes; a sound can replace it',
    track: 'Played',
    // a wave, until there is a sound
    params: { plays: 3 },
  },
  notes: true,
  load: { kB: 64, ns: 2600 },
  readouts: ['voices', 'note'],
  params,
  tail: (v) => 0.05 + (v.release ?? 0),
  unseen: 'the sound that its notes play',
  summary: (is) =>
    is.value('plays') === SOUND ? `played · ${is.sound || 'no sound'}` : `played · ${is.text('plays')}`,
  *prepare(audio) {
    if (audio) yield* octavePieces(audio)
    prepareReader()
    preparePlainWaves()
  },
  create: ({ sampleRate, seed }) => new PlayedProcessor(sampleRate, seed),
})

class PlayedProcessor implements SourceProcessor<typeof params> {
  readonly readouts = new Float64Array(2)
  private readonly voices = Array.from({ length: SLOTS }, () => new Voice())
  private readonly keys = new HeldKeys()
  private readonly reader: VoiceReader
  private readonly random: Random
  /** Pitch that the next glide comes from; −1 for none. */
  private readonly lastPitch = new Float64Array(1)
  private begun = 0
  private sounding = 0
  private wasPlaying = false
  /** Parameters of the present block. */
  private params!: Params

  constructor(
    private readonly sampleRate: number,
    seed: number,
  ) {
    this.random = new Random(seed)
    this.reader = new VoiceReader(sampleRate, this.random, this.lastPitch)
  }

  reset(): void {
    this.random.reset()
    for (const voice of this.voices) {
      voice.envelope.reset()
      voice.id = 0
      voice.note = -1
    }
    this.keys.count = 0
    this.lastPitch[0] = -1
    this.begun = 0
    this.sounding = 0
    this.wasPlaying = false
    this.readouts.fill(0)
  }

  process({ out, notes, song, audio }: SourceBlock, p: Params): void {
    const { voices, reader, readouts } = this
    this.params = p
    out.left.fill(0)
    out.right.fill(0)
    // with the song, what plays to its end stops as well
    if (this.wasPlaying && !song.playing)
      for (let k = 0; k < SLOTS; k++)
        if (!voices[k].isDown) voices[k].envelope.cut(STOP_SECONDS * this.sampleRate)
    this.wasPlaying = song.playing
    if (this.sounding === 0 && notes.count === 0) return
    reader.begin(out, notes, audio, p)
    let at = 0
    for (let e = 0; e <= notes.count; e++) {
      const until = e < notes.count ? notes.frame[e] : BLOCK
      if (until > at) {
        for (let k = 0; k < SLOTS; k++) if (voices[k].envelope.isOn) reader.add(voices[k], at, until)
        at = until
      }
      if (e === notes.count) break
      if (notes.begins[e] === 1) this.press(notes.id[e], notes.pitch[e], notes.velocity[e])
      else this.letGo(notes.id[e])
    }
    const levels = p.level.values()
    for (let i = 0; i < BLOCK; i++) {
      out.left[i] *= levels[i]
      out.right[i] *= levels[i]
    }
    this.sounding = 0
    for (let k = 0; k < SLOTS; k++) if (voices[k].envelope.isOn) this.sounding++
    readouts[0] = this.sounding
    readouts[1] = this.lastPitch[0]
  }

  private press(id: number, pitch: number, velocity: number): void {
    const { params: p, keys } = this
    // where more keys are down than are known, the oldest goes up
    if (keys.count === HELD) keys.lift(keys.ids[0])
    keys.press(id, pitch)
    const copies = Math.round(p.copies.value)
    const most = Math.max(1, Math.min(Math.round(p.voices.value), Math.floor(READERS / copies)))
    const overlaps = keys.count > 1
    if (most === 1 && overlaps && p.overlap.value === 1) {
      const voice = this.newestHeld()
      if (voice) {
        voice.id = id
        voice.note = pitch
        this.glideTo(voice, pitch, overlaps)
        return
      }
    }
    this.makeRoom(most)
    this.start(id, pitch, velocity, overlaps)
  }

  private letGo(id: number): void {
    const { keys, voices } = this
    if (!keys.lift(id)) return
    const last = keys.count - 1
    const leader = Math.round(this.params.voices.value) === 1 && last >= 0 ? this.newestHeld() : undefined
    for (let k = 0; k < SLOTS; k++) {
      const voice = voices[k]
      if (voice.id !== id) continue
      // the note before it, whose key is still down, leads again
      if (voice === leader) {
        voice.id = keys.ids[last]
        voice.note = keys.notes[last]
        this.glideTo(voice, voice.note, true)
      } else voice.isDown = false
    }
  }

  /** The held voice that began last. */
  private newestHeld(): Voice | undefined {
    let found: Voice | undefined
    for (let k = 0; k < SLOTS; k++) {
      const voice = this.voices[k]
      if (voice.envelope.isHeld && (found === undefined || voice.begun > found.begun)) found = voice
    }
    return found
  }

  /** Cuts voices until one more may begin: those let go first, then the oldest. */
  private makeRoom(most: number): void {
    for (;;) {
      let count = 0
      let oldest: Voice | undefined
      for (let k = 0; k < SLOTS; k++) {
        const voice = this.voices[k]
        if (!voice.envelope.isOn || voice.envelope.isCut) continue
        count++
        if (oldest === undefined || goesBefore(voice, oldest)) oldest = voice
      }
      if (count < most || oldest === undefined) return
      oldest.envelope.cut(CUT_SECONDS * this.sampleRate)
    }
  }

  /** A slot that is free, or the one that is nearest to silence. */
  private free(): Voice {
    const { voices } = this
    let best = voices[0]
    for (let k = 0; k < SLOTS; k++) {
      const { envelope } = voices[k]
      if (!envelope.isOn) return voices[k]
      if (envelope.isCut && (!best.envelope.isCut || envelope.level < best.envelope.level)) best = voices[k]
    }
    return best
  }

  private start(id: number, pitch: number, velocity: number, overlaps: boolean): void {
    const { params: p, sampleRate, random, lastPitch } = this
    const voice = this.free()
    voice.envelope.reset()
    voice.envelope.sustain = p.sustain.value
    voice.envelope.begin(p.attack.value * sampleRate, p.decay.value * sampleRate, p.curve.value)
    voice.id = id
    voice.note = pitch
    voice.begun = ++this.begun
    voice.isDown = true
    voice.copies = Math.max(1, Math.round(p.copies.value))
    voice.gain = 1 - p.toLevel.value * (1 - velocity * velocity)
    if (p.plays.value === SOUND) {
      const from = p.start.value + (p.end.value - p.start.value) * p.toStart.value * (1 - velocity)
      voice.places.fill(Math.floor(Math.min(0.999999, Math.max(0, from)) * this.reader.frames))
    } else for (let c = 0; c < voice.copies; c++) voice.places[c] = c === 0 ? 0 : random.next()
    voice.pitch = lastPitch[0] >= 0 ? lastPitch[0] : pitch
    voice.slope = 0
    this.glideTo(voice, pitch, overlaps)
  }

  private glideTo(voice: Voice, pitch: number, overlaps: boolean): void {
    const { params: p, sampleRate } = this
    const way = pitch - voice.pitch
    voice.goal = pitch
    const seconds = p.glide.value * (p.glideBy.value === BY_RATE ? Math.abs(way) / 12 : 1)
    voice.slope =
      way === 0 || seconds * sampleRate < 1 || !(overlaps || p.glides.value === ALWAYS)
        ? 0
        : way / (seconds * sampleRate)
    if (voice.slope === 0) voice.pitch = pitch
    this.lastPitch[0] = voice.pitch
  }
}

/** Whether a voice makes room before another. */
const goesBefore = (voice: Voice, other: Voice): boolean =>
  other.envelope.isHeld === voice.envelope.isHeld ? voice.begun < other.begun : other.envelope.isHeld

/** The keys that are down, in the order in which they were pressed. */
class HeldKeys {
  readonly ids = new Float64Array(HELD)
  readonly notes = new Float64Array(HELD)
  count = 0

  press(id: number, note: number): void {
    this.ids[this.count] = id
    this.notes[this.count++] = note
  }

  /** Takes the key of a note up; gives whether it was down. */
  lift(id: number): boolean {
    for (let k = 0; k < this.count; k++) {
      if (this.ids[k] !== id) continue
      this.ids.copyWithin(k, k + 1, this.count)
      this.notes.copyWithin(k, k + 1, this.count)
      this.count--
      return true
    }
    return false
  }
}

// places of `marks`: end of what is read, where a loop goes back to, how long its fade is, in frames
const END = 0,
  BACK = 1,
  FADE = 2

/** Reads the copies of voices, of a sound or of a wave, and adds them to a block. */
class VoiceReader {
  /** Length of the sound. */
  frames = 0
  private readonly marks = new Float64Array(3)
  private readonly pair = new Float64Array(2)
  /** Detuning of copies as a factor of speed, and their gains on both sides. */
  private readonly factors = new Float64Array(COPIES)
  private readonly lefts = new Float64Array(COPIES)
  private readonly rights = new Float64Array(COPIES)
  private readonly ratios = new Float64Array(BLOCK)
  // state of the present block
  private params!: Params
  private out!: StereoBlock
  private notes!: NoteBlock
  private sound: Octaves | null = null

  constructor(
    private readonly sampleRate: number,
    private readonly random: Random,
    private readonly lastPitch: Float64Array,
  ) {}

  begin(out: StereoBlock, notes: NoteBlock, audio: AudioData | null, p: Params): void {
    this.params = p
    this.out = out
    this.notes = notes
    this.sound = audio?.channels[0]?.length ? octavesOf(audio) : null
    this.frames = this.sound ? this.sound.frames : 0
  }

  /** Adds frames `from` to `to` of a voice. */
  add(voice: Voice, from: number, to: number): void {
    const { params: p, sound, marks, sampleRate } = this
    const { envelope } = voice
    const isSound = p.plays.value === SOUND
    if (isSound && !sound) {
      envelope.reset()
      return
    }
    this.pitches(voice, from, to)
    this.place(voice.copies)
    envelope.sustain = p.sustain.value
    const loops = p.loop.value >= 0.5
    if (!voice.isDown && (loops || !isSound || p.whole.value < 0.5))
      envelope.release(p.release.value * sampleRate)
    if (!isSound || !sound) {
      this.addWave(voice, from, to)
      return
    }
    marks[END] = Math.max(p.end.value * this.frames, 2)
    marks[FADE] = loops ? Math.min(p.crossFade.value * sampleRate, marks[END] / 2) : 0
    // a fade needs sound before the place that it goes back to
    marks[BACK] = Math.min(Math.max(p.loopFrom.value * this.frames, marks[FADE]), marks[END] - 2)
    this.addSound(voice, sound, from, to)
    if (!loops && voice.places[0] >= marks[END]) envelope.reset()
  }

  private addSound(voice: Voice, sound: Octaves, from: number, to: number): void {
    const { out, pair, factors, lefts, rights, ratios } = this
    const { envelope, places, copies } = voice
    const loops = this.params.loop.value >= 0.5
    const end = this.marks[END]
    const back = this.marks[BACK]
    const fade = this.marks[FADE]
    for (let i = from; i < to; i++) {
      const g = envelope.next() * voice.gain
      let l = 0
      let r = 0
      for (let c = 0; c < copies; c++) {
        const step = ratios[i] * factors[c]
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
      }
      out.left[i] += l * g
      out.right[i] += r * g
      if (!envelope.isOn) break
    }
  }

  private addWave(voice: Voice, from: number, to: number): void {
    const { out, factors, lefts, rights, ratios, random } = this
    const { envelope, places, copies } = voice
    const wave = this.params.plays.value
    const widths = this.params.width.values()
    for (let i = from; i < to; i++) {
      const g = envelope.next() * voice.gain
      let l = 0
      let r = 0
      for (let c = 0; c < copies; c++) {
        const step = ratios[i] * factors[c]
        const y =
          wave === NOISE
            ? random.bipolar()
            : plainWave(wave - 1, places[c], step < 0.5 ? step : 0.5, widths[i])
        l += y * lefts[c]
        r += y * rights[c]
        const next = places[c] + step
        places[c] = next - Math.floor(next)
      }
      out.left[i] += l * g
      out.right[i] += r * g
      if (!envelope.isOn) break
    }
  }

  /** Speeds of a voice, or cycles a frame of its wave. */
  private pitches(voice: Voice, from: number, to: number): void {
    const { params: p, ratios } = this
    const { bend } = this.notes
    const isSound = p.plays.value === SOUND
    const base = isSound ? 0 : p.root.value - 69
    const unit = isSound ? 1 : 440 / this.sampleRate
    const root = p.root.value
    if (voice.slope === 0 && p.tune.constant && p.follow.constant && bend.constant && p.bendRange.constant) {
      const semis =
        (voice.pitch - root) * p.follow.value + p.tune.value + (bend.value - 0.5) * 2 * p.bendRange.value
      ratios.fill(unit * (semis + base === 0 ? 1 : exp2((semis + base) / 12)), from, to)
      return
    }
    const tunes = p.tune.values()
    const follows = p.follow.values()
    const bends = bend.values()
    const ranges = p.bendRange.values()
    for (let i = from; i < to; i++) {
      if (voice.slope !== 0) {
        voice.pitch += voice.slope
        if (voice.slope > 0 ? voice.pitch >= voice.goal : voice.pitch <= voice.goal) {
          voice.pitch = voice.goal
          voice.slope = 0
        }
      }
      const bent = (bends[i] - 0.5) * 2 * ranges[i]
      ratios[i] = unit * exp2(((voice.pitch - root) * follows[i] + tunes[i] + bent + base) / 12)
    }
    this.lastPitch[0] = voice.pitch
  }

  /** Where copies stand: their detuning, and their gains on both sides. */
  private place(copies: number): void {
    const { factors, lefts, rights } = this
    const { detune, spread } = this.params
    const whole = 1 / Math.sqrt(copies)
    for (let c = 0; c < copies; c++) {
      const way = copies > 1 ? (2 * c) / (copies - 1) - 1 : 0
      factors[c] = way === 0 ? 1 : exp2((way * detune.value) / 12)
      // neighbours in pitch stand on opposite sides
      const side = spread.value * way * (c % 2 === 0 ? 1 : -1)
      lefts[c] = whole * (side > 0 ? 1 - side : 1)
      rights[c] = whole * (side < 0 ? 1 + side : 1)
    }
  }
}
