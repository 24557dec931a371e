<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/** Which parts of a MIDI file go to which tracks. */
const { doc, midiFiles, screen } = useSession()
const offered = computed(() => screen.offeredMidi)
const places = ref<string[]>(
  (offered.value?.file.parts ?? []).map((_, i) =>
    i === 0 && offered.value?.track ? offered.value.track : offered.value?.track ? '' : 'new',
  ),
)
const takesTempo = ref(false)
const options = computed(() => [
  { value: '', text: 'do not import' },
  { value: 'new', text: 'new track' },
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind === 'track')
    .map((t) => ({ value: t.id, text: t.name })),
])
const tempoText = computed(() => {
  const { tempo = null, tempoChanges = 0 } = offered.value?.file ?? {}
  if (tempo === null) return ''
  const bpm = `${Math.round(tempo * 100) / 100} bpm`
  return tempoChanges > 0
    ? `${bpm}; it changes ${tempoChanges} more ${tempoChanges === 1 ? 'time' : 'times'}, which are ignored`
    : bpm
})

function take(): void {
  if (offered.value)
    midiFiles.take(
      offered.value,
      offered.value.file.parts.flatMap((part, i) =>
        places.value[i] ? [{ part, to: places.value[i] ?? '' }] : [],
      ),
      takesTempo.value,
    )
  screen.dialog = ''
}
</script>

<template>
  <BaseDialog v-if="offered" :title="`Notes from ${offered.name}`" @close="screen.dialog = ''">
    <ul class="max-h-[46vh] overflow-y-auto" aria-label="Parts">
      <li
        v-for="(part, i) in offered.file.parts"
        :key="i"
        class="flex items-center gap-2 border-b border-dotted border-line py-1"
      >
        <span class="min-w-0 flex-1 truncate">
          {{ part.name }}
          <span class="text-second">{{ part.notes.length }} notes, channel {{ part.channel + 1 }}</span>
        </span>
        <ChoiceField
          :label="`Track for ${part.name}`"
          hide-label
          :model-value="places[i] ?? ''"
          :options="options"
          @update:model-value="places[i] = $event"
        />
      </li>
    </ul>
    <div class="mt-3 flex items-center gap-3">
      <button
        v-if="tempoText"
        class="small-button"
        :aria-pressed="takesTempo"
        title="Sets the project tempo to the first tempo of the file"
        @click="takesTempo = !takesTempo"
      >
        Use its tempo
      </button>
      <span class="flex-1 text-small text-second">{{ tempoText }}</span>
      <button class="plain-button" @click="take">Import notes</button>
    </div>
  </BaseDialog>
</template>
