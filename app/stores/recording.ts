import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Recordings under way and their settings. */
export const useRecording = defineStore('recording', () => {
  /** Track whose notes are recorded, and track whose sound is. */
  const recordingNotes = ref<string | null>(null)
  const recordingTrack = ref<string | null>(null)
  /** Gauge whose ride is being recorded, as `owner.path`. */
  const recordingAutomation = ref<string | null>(null)
  /** Whether a bar of clicks comes before a take, and whether takes are brought to the grid. */
  const countsIn = ref(false)
  const quantisesTakes = ref(true)

  /** Resets the state when another project is opened. */
  function clear(): void {
    recordingNotes.value = recordingAutomation.value = null
  }
  return { recordingNotes, recordingTrack, recordingAutomation, countsIn, quantisesTakes, clear }
})
