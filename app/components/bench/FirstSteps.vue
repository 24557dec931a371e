<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { firstSteps } from '../../services/first-steps'

/** The next of the first steps that was not done yet. They can be hidden, and found again by Ctrl+K. */
const { preferences } = useSession()
const done = computed(() => new Set<string>(preferences.firstSteps.done))
const next = computed(() => firstSteps.find((s) => !done.value.has(s.id)))

function hide(): void {
  preferences.firstSteps = { ...preferences.firstSteps, hidden: true }
}
</script>

<template>
  <section
    v-if="!preferences.firstSteps.hidden && next"
    class="mt-auto border-t border-line bg-sheet px-3 py-2 text-small"
    aria-label="First steps"
  >
    <header class="flex items-center justify-between">
      <h2 class="water-name text-name">First steps</h2>
      <span class="text-tiny text-second">{{ done.size + 1 }} of {{ firstSteps.length }}</span>
      <button
        class="small-button"
        title="Hides the first steps. Ctrl+K finds them again."
        aria-label="Hide first steps"
        @click="hide"
      >
        ×
      </button>
    </header>
    <p aria-live="polite">
      <b>{{ next.title }}.</b> {{ next.text }}
    </p>
  </section>
</template>
