<script setup lang="ts">
import { Star, Volume2 } from '@lucide/vue'
import type { ShelfEntry } from '../../services/shelf-entries'

/** One preset of the list. */
defineProps<{ entry: ShelfEntry; highlighted: boolean; heard: boolean; favourite: boolean }>()
</script>

<template>
  <li
    class="row grid cursor-pointer items-center gap-x-2 border-b border-dotted border-line px-3 py-1"
    :class="highlighted ? 'bg-shoal' : ''"
  >
    <Volume2 v-if="heard" :size="15" class="text-magenta" aria-label="Previewed" />
    <span v-else />
    <div class="min-w-0">
      <b class="flex items-center gap-1 truncate">
        {{ entry.preset.name
        }}<Star v-if="favourite" :size="12" fill="currentColor" class="text-hue-3" aria-label="Favourite" />
      </b>
      <p class="truncate text-small text-second">
        {{ entry.preset.about || entry.preset.origin || entry.preset.tags.join(', ') }}
      </p>
    </div>
    <p class="text-right text-tiny text-second">
      {{ entry.kept ? 'mine' : entry.preset.tags.join(' · ') }}<br />{{ entry.preset.materials.join(', ') }}
    </p>
  </li>
</template>

<style scoped>
.row {
  grid-template-columns: 18px minmax(0, 1fr) auto;
  content-visibility: auto;
  contain-intrinsic-height: 46px;
}
</style>
