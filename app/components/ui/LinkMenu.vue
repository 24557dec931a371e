<script setup lang="ts">
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newId } from '@oleaje/core/project/new'
import { modulators as kinds } from '@oleaje/core/modulators/index'
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, onMounted, ref } from 'vue'
import { focusOfGauge, gaugeAt } from '../../focus/focus-gauge'
import { useParam } from '../../composables/useParam'
import { useSession } from '../../composables/useSession'
import { firstListen } from '../../services/session'

/**
 * The modulators that a gauge can be linked to, and new ones; asked for by M. Closes when one is chosen, by
 * Esc, or by a press elsewhere.
 */
const props = defineProps<{ owner: string; param: string }>()
const emit = defineEmits<{ close: [] }>()
const { doc, selection } = useSession()
const p = useParam(
  () => props.owner,
  () => props.param,
)
const list = ref<HTMLElement | null>(null)

const offered = computed(() =>
  (doc.project?.tracks ?? [])
    .flatMap((t) => t.modulators.filter((m) => m.id !== props.owner).map((m) => ({ m, t })))
    .sort((a, b) => Number(b.t.id === selection.track?.id) - Number(a.t.id === selection.track?.id)),
)

onMounted(async () => {
  await nextTick()
  list.value?.querySelector('button')?.focus()
})
onClickOutside(list, () => emit('close'))

function close(): void {
  emit('close')
  focusOfGauge(gaugeAt(p.key.value))?.focus()
}

function choose(id: string): void {
  p.link(id)
  close()
}

function make(type: string): void {
  const track = selection.track
  if (!track) return
  const id = newId()
  const making = addModulator(track.id, type, { id, listens: firstListen(doc.project, type) })
  p.link(id, undefined, making, type)
  selection.openModulators = [...selection.openModulators, id]
  close()
}

function walk(e: KeyboardEvent): void {
  const all = [...(list.value?.querySelectorAll('button') ?? [])]
  const at = all.indexOf(document.activeElement as HTMLButtonElement)
  if (e.key === 'ArrowDown' || e.key === 'ArrowRight') all[(at + 1) % all.length]?.focus()
  else if (e.key === 'ArrowUp' || e.key === 'ArrowLeft') all[(at - 1 + all.length) % all.length]?.focus()
  else if (e.key === 'Escape') close()
  else if (/^[a-z]$/i.test(e.key) && !e.ctrlKey && !e.metaKey && !e.altKey)
    nextCalled(all, at, e.key.toLowerCase())?.focus()
  else return
  e.preventDefault()
  e.stopPropagation()
}

/** The next item whose name begins with a letter; “new” is no part of a name. */
const nextCalled = (all: HTMLButtonElement[], at: number, letter: string): HTMLButtonElement | undefined =>
  [...all.slice(at + 1), ...all.slice(0, at + 1)].find((b) =>
    (b.textContent ?? '').trim().toLowerCase().replace(/^new /, '').startsWith(letter),
  )
</script>

<template>
  <div
    ref="list"
    role="menu"
    :aria-label="`Modulators for ${p.label.value}`"
    class="my-1 flex flex-wrap gap-1 bg-shoal p-1"
    @keydown="walk"
  >
    <button
      v-for="o in offered"
      :key="o.m.id"
      role="menuitem"
      class="plain-button flex items-center gap-1"
      :title="`Links ${o.m.name}`"
      @click="choose(o.m.id)"
    >
      <Badge :letter="o.m.letter" :hue="o.m.hue" small /><span class="water-name">{{ o.m.name }}</span>
      <span v-if="o.t.id !== selection.track?.id" class="text-tiny text-second">{{ o.t.name }}</span>
    </button>
    <button
      v-for="k in kinds"
      :key="k.id"
      role="menuitem"
      class="plain-button"
      :title="k.tip"
      @click="make(k.id)"
    >
      new {{ k.name }}
    </button>
  </div>
</template>
