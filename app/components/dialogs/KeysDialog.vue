<script setup lang="ts">
import { computed, ref } from 'vue'
import { actions } from '../../composables/actions'
import { rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'

/** All keys, to be searched; in columns that fit any height. */
const session = useSession()
const query = ref('')
const onGauges = [
  ['Set, set finely', 'drag, Shift+drag'],
  ['Step', 'arrow keys, wheel over the focused one or with Alt'],
  ['Stride', 'Page Up, Page Down'],
  ['To the ends', 'Home, End'],
  ['Type a value: 1.2k, -6dB, 1/8., C#4, +7st, x2', 'Enter, double-click'],
  ['Back to the default', 'Backspace'],
  ['Link a modulator', 'M'],
  ['Mark, to link several at once', 'Shift+click'],
  ['Take a drag back', 'Esc while dragging'],
]
const all = computed(() => [
  ...actions(session)
    .filter((a) => a.keys)
    .map((a) => ({ name: a.name, keys: a.keys, words: [a.keys], tip: '' })),
  ...onGauges.map(([name = '', keys = '']) => ({
    name: `On a gauge: ${name.charAt(0).toLowerCase()}${name.slice(1)}`,
    keys,
    words: [keys, 'gauge'],
    tip: '',
  })),
])
const shown = computed(() => rankFound(query.value, all.value))
</script>

<template>
  <BaseDialog
    title="Keys"
    wide
    @close="session.bench.dialog = ''"
  >
    <input
      v-model="query"
      class="field mb-2 w-full"
      type="search"
      placeholder="what you want to do, or a key"
      aria-label="Search keys"
    >
    <dl
      class="max-h-[60vh] overflow-y-auto text-small"
      :class="query ? '' : 'columns-2 gap-6'"
      tabindex="0"
      aria-label="Keys and what they do"
    >
      <div
        v-for="a in shown"
        :key="a.name"
        class="flex break-inside-avoid justify-between gap-2 border-b border-dotted border-line py-0.5"
      >
        <dt>{{ a.name }}</dt>
        <dd class="text-right font-semibold">{{ a.keys }}</dd>
      </div>
    </dl>
    <p v-if="!shown.length" class="text-second">No key does that.</p>
  </BaseDialog>
</template>
