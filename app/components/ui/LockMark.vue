<script setup lang="ts">
import { Lock } from '@lucide/vue'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Shown where something is locked against the dice. A click unlocks it. */
const { of, name } = defineProps<{ of: string; name: string }>()
const { dice, doc } = useSession()
const isLocked = computed(() => doc.project?.locks?.includes(of) ?? false)
</script>

<template>
  <button
    v-if="isLocked"
    class="text-second"
    :aria-label="`Unlock ${name} for the dice`"
    title="Locked against the dice. Click to unlock (Shift+L)"
    @click="dice.toggle(of)"
  >
    <Lock :size="13" aria-hidden="true" />
  </button>
</template>
