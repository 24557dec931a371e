import type { MidiFile } from '@oleaje/core/formats/midi'

/** A MIDI file whose parts wait to be given to tracks, and the track that it was chosen for. */
export interface OfferedMidi {
  readonly name: string
  readonly file: MidiFile
  readonly track: string | null
}
