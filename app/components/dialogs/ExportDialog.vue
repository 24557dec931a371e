<script setup lang="ts">
import type { ChainForm } from '@oleaje/core/chain-module/chain-export'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Exports the chain of the selected track as a module for web pages. */
const { chainExporting, screen, selection } = useSession()
const name = ref(selection.track?.name ?? '')
const form = ref<ChainForm>('effect')
const forms = computed(() => [
  { value: 'effect' as const, text: 'an effect, for the sound of a page' },
  ...(selection.track?.source ? [{ value: 'notes' as const, text: 'an instrument, played by notes' }] : []),
])
const macros = computed(() =>
  (selection.track?.modulators ?? []).filter((m) => modulatorDefinition(m.type)?.isMacro).map((m) => m.name),
)
const missed = computed(() => (selection.track ? chainExporting.missed(selection.track.id, form.value) : []))
const said = ref('')
const busy = ref(false)

async function save(): Promise<void> {
  if (!selection.track) return
  busy.value = true
  said.value = 'Building the module…'
  try {
    said.value = await chainExporting.save(selection.track.id, form.value, name.value.trim() || 'Chain')
  } catch (error) {
    said.value =
      error instanceof DOMException && error.name === 'AbortError' ? 'Nothing was saved.' : sentence(error)
  }
  busy.value = false
}
</script>

<template>
  <BaseDialog title="Export for web pages" @close="screen.dialog = ''">
    <form class="grid items-center gap-2" style="grid-template-columns: 84px 1fr" @submit.prevent="save">
      <ChoiceRow v-model="form" text="As" label="Form" :options="forms" />
      <label for="export-name">Name</label>
      <input id="export-name" v-model="name" class="field" maxlength="80" />
      <span>Macros</span>
      <p class="text-small">
        {{ macros.length ? macros.join(', ') : 'none' }}
        <span class="block text-second">
          {{
            macros.length
              ? 'Each becomes an audio parameter of the module.'
              : 'Add macros to let a page control the chain.'
          }}
        </span>
      </p>
      <template v-if="missed.length">
        <span />
        <p class="text-small text-magenta">
          The chain listens to {{ missed.join(', ') }}. The module leaves this out.
        </p>
      </template>
      <span />
      <p class="text-small text-second">
        Saves a zip file with the module, its TypeScript types and a demonstration page. The module plays the
        same samples as Oleaje.
      </p>
      <span />
      <div class="flex items-center gap-3">
        <button class="plain-button" type="submit" :disabled="busy" title="Builds and saves the module">
          Export
        </button>
        <p role="status" class="text-small">{{ said }}</p>
      </div>
    </form>
  </BaseDialog>
</template>
