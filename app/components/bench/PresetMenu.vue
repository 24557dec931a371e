<script setup lang="ts">
import type { EffectPreset } from '@oleaje/core/contract/effect'
import { effectDefinition } from '@oleaje/core/effects/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { isSetUpAs, takePreset } from '@oleaje/core/project/value-edits'
import { ChevronDown, ChevronLeft, ChevronRight } from '@lucide/vue'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** The presets of an effect: the current one, a list of all, and buttons for the next and the previous. */
const props = defineProps<{ effect: Extract<ChainNode, { kind: 'effect' }> }>()
const { doc } = useSession()
const presets = computed(() => effectDefinition(props.effect.type)?.presets ?? [])
const at = computed(() => presets.value.findIndex((p) => isSetUpAs(props.effect, p)))

function take(preset: EffectPreset | undefined): void {
  if (preset) doc.edit(`Preset ${preset.name}`, takePreset(props.effect.id, preset))
}
function step(by: 1 | -1): void {
  const count = presets.value.length
  const from = at.value < 0 && by < 0 ? 0 : at.value
  take(presets.value[(from + by + count) % count])
}
const groups = computed(() => [
  presets.value.map((p, i) => ({ text: p.name, tip: p.tip, on: i === at.value, run: () => take(p) })),
])
</script>

<template>
  <div v-if="presets.length" class="flex min-w-0 items-center" role="group" aria-label="Presets">
    <button
      class="small-button"
      title="Loads the previous preset"
      aria-label="Previous preset"
      @click="step(-1)"
    >
      <ChevronLeft :size="14" aria-hidden="true" />
    </button>
    <ActionMenu label="Presets" tip="Loads a preset. Undo restores your settings." :groups="groups">
      <span class="inline-flex items-center gap-1"
        ><span class="max-w-44 truncate">{{ presets[at]?.name ?? 'Presets' }}</span
        ><ChevronDown :size="12" aria-hidden="true"
      /></span>
    </ActionMenu>
    <button class="small-button" title="Loads the next preset" aria-label="Next preset" @click="step(1)">
      <ChevronRight :size="14" aria-hidden="true" />
    </button>
  </div>
</template>
