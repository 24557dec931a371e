import type { LabResult } from '@oleaje/core/lab/result'
import { type MeasurementId, measure } from '@oleaje/core/lab/measurements'
import type { LabSettings } from '@oleaje/core/lab/settings'
import type { LabSubject } from '@oleaje/core/lab/subject'
import type { Sound } from '../contract/messages'
import { audioOf } from './audio-of'

/** Measurements of the Lab. */
export const labWork = {
  /** Measures one state of a chain. */
  measured(kind: MeasurementId, subject: LabSubject, sounds: Sound[], settings: LabSettings): LabResult {
    const audio = audioOf(sounds)
    return measure(kind, subject, settings, (hash) => audio.get(hash) ?? null)
  },
}
