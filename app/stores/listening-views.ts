/** What the listening panel can show. */
export const listeningViews = [
  { id: 'spectra', name: 'spectra', tip: 'Spectra of the dry and the processed sound' },
  { id: 'scope', name: 'scope', tip: 'The wave, standing still' },
  { id: 'spectrogram', name: 'spectrogram', tip: 'The spectrum over the last seconds' },
  { id: 'field', name: 'field', tip: 'Where between left and right it sounds' },
  { id: 'loudness', name: 'loudness', tip: 'Loudness over the last minute' },
  { id: 'harmonics', name: 'harmonics', tip: 'Harmonics of the test tone against its fundamental, in dB' },
] as const
export type ListeningView = (typeof listeningViews)[number]['id']
