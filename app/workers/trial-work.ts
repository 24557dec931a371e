import { chainResponse } from '@oleaje/core/analysis/chain-response'
import type { MeasuredResponse } from '@oleaje/core/analysis/measured-response'
import type { ChainNode, Project, Track } from '@oleaje/core/project/schema'
import { apply } from '@oleaje/core/project/edit'
import { type Preset, takePresetInto } from '@oleaje/core/project/preset'
import { type SoundFigures, framesOf, soundFigures, truePeakOf } from '@oleaje/core/analysis/sound-figures'
import { type DiceThrow, tracksOf } from '@oleaje/core/variation/dice'
import { type LevelledThrow, levelledThrow } from '@oleaje/core/variation/levelled-throw'
import { type Phrase, phraseOf, phraseThrough } from '@oleaje/core/render/phrase'
import { auditioned } from '@oleaje/core/project/replace-chain'
import type { Sound } from '../contract/messages'
import { type SpectrogramPair, spectrogramOf } from './spectrogram-picture'
import { PICTURED_SECONDS, type PicturedSound, pictureOf } from './preset-picture'
import { audioOf } from './audio-of'
import { renderPart, withoutMix, bareTrack } from './render-part'

/** Part of a try-out that is reported before the rest is computed. */
const FIRST_PART = 0.2

/** What would be heard: levels, figures and pictures of chains and presets, from short renders. */
export const trialWork = {
  /** Frequency response of a chain, measured by an impulse. */
  chainResponse(nodes: ChainNode[], sampleRate: number): MeasuredResponse {
    return chainResponse(nodes, sampleRate)
  },

  /**
   * A preset over the sound of a track, from the loop's start, brought to the loudness that the sound has by
   * itself.
   */
  preview(project: Project, sounds: Sound[], track: string, preset: Preset, seconds: number): Sound {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const dry = renderPart(bare, audio, track, from, seconds)
    const { channels, loudness } = renderPart(
      apply(bare, takePresetInto(track, preset, { chainOf: track })).next,
      audio,
      track,
      from,
      seconds,
    )
    const gain =
      loudness > -70 && dry.loudness > -70
        ? 10 ** (Math.max(-24, Math.min(24, dry.loudness - loudness)) / 20)
        : 1
    for (const c of channels) for (let i = 0; i < c.length; i++) c[i] = (c[i] ?? 0) * gain
    return { hash: '', sampleRate: project.sampleRate, channels }
  },

  /**
   * By how many LU a preset on a track is softer than its dry sound, over the first seconds of the loop; 0
   * where either is silent.
   */
  levelOf(project: Project, sounds: Sound[], track: string, preset: Preset, seconds: number): number {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const dry = renderPart(bare, audio, track, from, seconds).loudness
    const through = apply(bare, auditioned(track, preset, 0)).next
    const { loudness } = renderPart(through, audio, track, from, seconds)
    return loudness > -70 && dry > -70 ? Math.max(-24, Math.min(24, dry - loudness)) : 0
  },

  /**
   * Integrated loudness in LUFS of a track with its chain A, with its chain B and without a chain, each over
   * the same stretch from the start of the loop; −Infinity where nothing is above the gate. Effects of the
   * mix are left out, as they come after the comparison.
   * @param seconds length of the stretch at most
   */
  loudnessOf(
    project: Project,
    sounds: Sound[],
    track: string,
    seconds: number,
  ): Record<'a' | 'b' | 'dry', number> {
    const audio = audioOf(sounds)
    const { loop, tempo } = project
    const from = (loop.start * 60) / tempo
    const length = Math.min(seconds, ((loop.end - loop.start) * 60) / tempo)
    const of = (change: (t: Track) => Track): number =>
      renderPart(
        {
          ...project,
          tracks: project.tracks.map((t) =>
            t.kind === 'mix'
              ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const }
              : t.id === track
                ? change(t)
                : t,
          ),
        },
        audio,
        track,
        from,
        length,
      ).loudness
    const a = of((t) => ({ ...t, heard: 'a' }))
    const hasB = project.tracks.some((t) => t.id === track && t.b)
    return {
      a,
      b: hasB ? of((t) => ({ ...t, heard: 'b' })) : a,
      dry: of((t) => ({ ...t, a: { nodes: [] }, b: null, heard: 'a' })),
    }
  },

  /** Picture data of a preset on the sound of a track: dry and processed. */
  presetPicture(
    project: Project,
    sounds: Sound[],
    track: string,
    preset: Preset,
  ): { dry: PicturedSound; wet: PicturedSound } {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const made = apply(bare, takePresetInto(track, preset, { chainOf: track })).next
    const picture = (p: Project): PicturedSound =>
      pictureOf(renderPart(p, audio, track, from, PICTURED_SECONDS).channels, project.sampleRate)
    return { dry: picture(bare), wet: picture(made) }
  },

  /**
   * Some seconds of one track from the start of the loop: figures and a spectrogram.
   * @param onPart is given both of the first part of it as soon as that is there
   */
  tryOut(
    project: Project,
    sounds: Sound[],
    track: string,
    seconds: number,
    onPart?: (part: TriedOut) => void,
  ): TriedOut {
    const from = (project.loop.start * 60) / project.tempo
    const of = (channels: readonly [Float32Array, Float32Array], part = 1): TriedOut => {
      const frames = framesOf(channels, project.sampleRate)
      return {
        figures: soundFigures(channels, project.sampleRate, frames),
        picture: spectrogramOf(frames, part),
      }
    }
    let isTold = !onPart
    const { channels } = renderPart(
      withoutMix(project),
      audioOf(sounds),
      track,
      from,
      seconds,
      (done, [left, right]) => {
        const part = done / left.length
        if (isTold || part < FIRST_PART) return
        isTold = true
        onPart?.(of([left.subarray(0, done), right.subarray(0, done)], part))
      },
    )
    return of(channels)
  },

  /** A throw of the dice after which the sound is as loud as before; null where none is found. */
  levelledThrow(project: Project, sounds: Sound[], thrown: DiceThrow, seconds: number): LevelledThrow | null {
    const audio = audioOf(sounds)
    const from = (project.loop.start * 60) / project.tempo
    const [alone] = thrown.scope.kind === 'project' ? [] : tracksOf(project, thrown.scope)
    return levelledThrow(alone ? withoutMix(project) : project, thrown, (p) => {
      const { channels, loudness } = renderPart(p, audio, alone?.id, from, seconds)
      return { loudness, truePeak: truePeakOf(channels) }
    })
  },

  /** Spectrograms of a phrase, made of sounds or a sine without any, before and after a preset. */
  phrasePicture(preset: Preset, phrase: Phrase, sounds: Sound[]): SpectrogramPair {
    const audio = sounds.length ? phraseOf(sounds) : null
    const picture = (through: Preset | null): Uint8Array => {
      const sound = phraseThrough(phrase, through, {}, () => audio)
      return spectrogramOf(framesOf(sound, audio?.sampleRate ?? 48_000))
    }
    return { dry: picture(null), wet: picture(preset) }
  },
}

/** What is measured of a try-out. */
export interface TriedOut {
  readonly figures: SoundFigures
  readonly picture: Uint8Array
}
