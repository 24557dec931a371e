import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { InputDevice } from '../contract/input-device'

/** Open inputs, and the targets of notes and controllers. */
export const useDevices = defineStore('devices', () => {
  /** Real devices that can be heard. */
  const inputDevices = shallowRef<readonly InputDevice[]>([])
  /** Track whose live input is open, and the track that is left out of the mix meanwhile. */
  const openInput = ref<string | null>(null)
  const unheardInput = ref<string | null>(null)
  /** Whether the computer's keys play notes, and from which octave up. */
  const typesNotes = ref(false)
  const typedOctave = ref(2)
  /** Track that notes go to whatever is selected; the selected one without. */
  const notesTo = ref<string | null>(null)
  /** Gauge that waits for a control of a device to be moved. */
  const controlFor = ref<string | null>(null)

  /** Another project is open: nothing waits for a device. */
  function clear(): void {
    notesTo.value = controlFor.value = null
  }
  return { inputDevices, openInput, unheardInput, typesNotes, typedOctave, notesTo, controlFor, clear }
})
