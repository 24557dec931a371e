<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * Offers a new version of the app once it has been loaded. It waits until it is asked for, and everything is
 * saved first.
 */
const { doc, recording } = useSession()
const { $pwa } = useNuxtApp()
const isRecording = computed(() =>
  Boolean(recording.recordingTrack || recording.recordingNotes || recording.recordingAutomation),
)
const later = ref(false)

async function reload(): Promise<void> {
  await doc.save()
  if (doc.saveState === 'saved' || doc.saveState === 'read only') {
    const next = (await navigator.serviceWorker.getRegistration())?.waiting
    // where no page uses the old version, the new one has not waited
    if (!next) return location.reload()
    // the package reloads only a page that the old version served; the page of a first visit came from the
    // host
    next.addEventListener('statechange', () => next.state === 'activated' && location.reload())
    await $pwa?.updateServiceWorker(true)
  } else
    doc.trouble =
      'The project could not be saved, so the new version was not loaded. Save the project to a file, then click Reload.'
}
</script>

<template>
  <div
    v-if="$pwa?.needRefresh && !later"
    role="status"
    class="flex items-center gap-2 border-b border-line bg-shoal px-4 py-1 text-small"
  >
    A new version of Oleaje is available.
    <button
      class="small-button"
      :disabled="isRecording"
      :title="isRecording ? 'Stop the recording first' : 'Saves the project and loads the new version'"
      @click="reload"
    >
      Reload
    </button>
    <button
      class="small-button"
      title="Loads the new version the next time you open the app"
      @click="later = true"
    >
      Later
    </button>
  </div>
</template>
