/** The views of a dock pane. */
export const paneViews = [
  { id: 'song', name: 'Song', tip: 'Shows the source, the loop and the selected modulator along the song' },
  { id: 'spectra', name: 'Spectrum', tip: 'Shows the spectra of the dry and the processed sound' },
  { id: 'scope', name: 'Scope', tip: 'Shows the waveform, triggered so that it stands still' },
  { id: 'spectrogram', name: 'Spectrogram', tip: 'Shows the spectrum over the last seconds' },
  { id: 'field', name: 'Stereo', tip: 'Shows the stereo field and the correlation' },
  { id: 'loudness', name: 'Loudness', tip: 'Shows the loudness over the last minute' },
  {
    id: 'harmonics',
    name: 'Harmonics',
    tip: 'Shows the harmonics of the test tone in dB below its fundamental',
  },
] as const
export type PaneView = (typeof paneViews)[number]['id']
