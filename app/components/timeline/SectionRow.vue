<script setup lang="ts">
import { removeSection, setLoop, updateSection } from '@oleaje/core/project/song-edits'
import type { Section } from '@oleaje/core/project/schema'
import { nextTick, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/** Named stretches of the song: a click loops one, a double-click names it. */
defineProps<{ perBeat: number }>()
const { doc } = useSession()
const naming = ref('')
const field = ref<HTMLInputElement[]>([])

const isLooped = (s: Section): boolean =>
  !!doc.project?.loop.on && doc.project.loop.start === s.start && doc.project.loop.end === s.end

async function rename(id: string): Promise<void> {
  naming.value = id
  await nextTick()
  field.value[0]?.select()
}

function named(id: string, e: Event): void {
  const name = (e.target as HTMLInputElement).value.trim()
  if (name) doc.edit('Rename section', updateSection(id, { name: name.slice(0, 120) }))
  naming.value = ''
}

function keydown(e: KeyboardEvent, s: Section): void {
  if (e.key === 'Delete' || e.key === 'Backspace') doc.edit(`Remove ${s.name}`, removeSection(s.id))
  else if (e.key === 'F2') void rename(s.id)
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="flex h-7 border-b border-line">
    <span
      class="sticky left-0 z-10 w-52.5 shrink-0 border-r border-line bg-paper px-2 text-small leading-7 text-second"
    >
      Sections
    </span>
    <div class="relative flex-1">
      <div
        v-for="s in doc.project?.sections"
        :key="s.id"
        class="absolute top-0.5 h-6 border"
        :class="isLooped(s) ? 'border-ink bg-water' : 'border-line bg-shoal'"
        :style="{
          left: `${s.start * perBeat}px`,
          width: `${Math.max(18, (s.end - s.start) * perBeat - 2)}px`,
        }"
      >
        <input
          v-if="naming === s.id"
          ref="field"
          class="h-full w-full bg-sheet px-1 text-small"
          :value="s.name"
          aria-label="Section name"
          @change="named(s.id, $event)"
          @blur="naming = ''"
          @keydown.enter="named(s.id, $event)"
          @keydown.stop
        />
        <button
          v-else
          class="water-name h-full w-full truncate px-1 text-left text-plain"
          :aria-pressed="isLooped(s)"
          :title="`${s.name}: click to loop, double-click or F2 to rename, Delete to remove`"
          @click="doc.edit(`Loop ${s.name}`, setLoop({ on: true, start: s.start, end: s.end }))"
          @dblclick="rename(s.id)"
          @keydown="keydown($event, s)"
        >
          {{ s.name }}
        </button>
      </div>
    </div>
  </div>
</template>
