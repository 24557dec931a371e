<script setup lang="ts">
import { setSource } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Which track another one hears, and where on its way. */
const props = defineProps<{ track: Track }>()
const { doc } = useSession()
const listens = computed(() => props.track.source?.listens ?? null)
/** Tracks that do not hear this one themselves, however far round. */
const options = computed(() => {
  const tracks = doc.project?.tracks ?? []
  const hears = (id: string, seen: readonly string[] = []): boolean => {
    const to = tracks.find((t) => t.id === id)?.source?.listens?.track
    return to !== undefined && (to === props.track.id || (!seen.includes(to) && hears(to, [...seen, to])))
  }
  const free = tracks.filter((t) => t.kind !== 'mix' && t.id !== props.track.id && !hears(t.id))
  return [{ value: '', text: 'no track' }, ...free.map((t) => ({ value: t.id, text: t.name }))]
})
const points = [
  { value: 'before', text: 'before chain' },
  { value: 'after', text: 'after chain' },
] as const

function hear(track: string, point: 'before' | 'after'): void {
  const { source } = props.track
  if (source)
    doc.edit(
      'Change track',
      setSource(props.track.id, { ...source, listens: track ? { track, point } : null }),
    )
}
</script>

<template>
  <div class="mt-1 flex flex-wrap items-center gap-2 text-small">
    <ChoiceField
      label="Track"
      :model-value="listens?.track ?? ''"
      :options="options"
      @update:model-value="hear($event, listens?.point ?? 'before')"
    />
    <ChoiceField
      v-if="listens"
      label="Tap"
      hide-label
      :model-value="listens.point"
      :options="points"
      @update:model-value="hear(listens.track, $event)"
    />
  </div>
</template>
