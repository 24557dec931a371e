<script setup lang="ts">
import { SNAPSHOTS, removeSnapshot } from '@oleaje/core/project/snapshots'
import { seconds } from '@oleaje/core/units/parameter'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** The nine snapshots of the selected track, and the time in which they are gone to. */
const { doc, snapshots, selection, screen } = useSession()
const taken = computed(() => new Map(selection.track?.snapshots.map((s) => [s.id, s.name]) ?? []))
const glide = seconds('Snapshot glide', { min: 0, max: 30, default: 0.4 })

function press(e: MouseEvent, slot: number): void {
  if (e.shiftKey || !taken.value.has(String(slot))) snapshots.take(slot)
  else snapshots.recall(slot)
}
function tipOf(slot: number): string {
  const name = taken.value.get(String(slot))
  return name === undefined
    ? `Stores all values of the track (Shift+${slot})`
    : `${name}: click to recall (${slot}); Shift+click to store again, Delete to remove`
}
function forget(slot: number): void {
  if (selection.track) doc.edit(`Remove snapshot ${slot}`, removeSnapshot(selection.track.id, slot))
}
</script>

<template>
  <div class="flex items-center gap-0.75 text-tiny" role="group" aria-label="Snapshots">
    <span class="water-name text-plain">Snapshots</span>
    <button
      v-for="slot in SNAPSHOTS"
      :key="slot"
      class="slot"
      :class="
        taken.has(`${slot}`)
          ? 'border-ink bg-deep font-semibold text-ink'
          : 'border-second bg-sheet text-second'
      "
      :aria-label="taken.has(`${slot}`) ? `Recall ${taken.get(`${slot}`)}` : `Store snapshot ${slot}`"
      :title="tipOf(slot)"
      @click="press($event, slot)"
      @keydown.delete.stop="forget(slot)"
    >
      {{ slot }}
    </button>
    <ValueField
      class="w-15.5"
      :spec="glide"
      :value="screen.snapshotGlide"
      title="Snapshot glide time"
      @take="screen.snapshotGlide = $event"
    />
  </div>
</template>

<style scoped>
.slot {
  width: 20px;
  height: 20px;
  border-width: 1px;
  border-radius: 3px;
}
</style>
