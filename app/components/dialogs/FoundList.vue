<script setup lang="ts">
import { computed } from 'vue'
import type { SearchList } from '../../composables/useSearchList'
import type { Found } from './use-addable'

/** What a search field finds: in columns under headings while nothing is typed, then in a row each. */
const { results } = defineProps<{ results: SearchList<Found>; columns: string }>()
const emit = defineEmits<{ choose: [found: Found, e: MouseEvent] }>()
const { query, found, now, list, option, point } = results
const isWhole = computed(() => query.value.trim() === '')
const headOf = (i: number): string =>
  isWhole.value && found.value[i]?.group !== found.value[i - 1]?.group ? (found.value[i]?.group ?? '') : ''
</script>

<template>
  <div v-bind="list" class="overflow-y-auto" aria-label="Results">
    <ul role="presentation" :class="isWhole ? columns : ''">
      <template v-for="(f, i) in found" :key="f.id">
        <li v-if="headOf(i)" class="water-name break-after-avoid pt-1 text-name" role="presentation">
          {{ headOf(i) }}
        </li>
        <li
          v-bind="option(i)"
          class="flex cursor-pointer items-center gap-2 px-1 py-0.5"
          :class="f === now ? 'bg-shoal' : ''"
          :title="f.tip"
          @pointermove="point(i, $event)"
          @mousedown.prevent
          @click="emit('choose', f, $event)"
        >
          <Glyph :of="f.glyph" class="shrink-0" />
          <b class="truncate">{{ f.name }}</b>
          <span
            v-if="!isWhole || f.group === 'Actions'"
            class="ml-auto max-w-[58%] truncate text-right text-small text-second"
          >
            {{ f.tip }}
          </span>
        </li>
      </template>
    </ul>
    <p v-if="!found.length" class="px-1 py-1 text-second" role="presentation">No results.</p>
  </div>
</template>
