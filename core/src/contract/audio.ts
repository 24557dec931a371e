/** Decoded audio at the project's sample rate. One array (mono) or two. */
export interface AudioData {
  readonly sampleRate: number
  readonly channels: readonly Float32Array[]
}
