<script setup lang="ts">
import { setBranchPads } from '@oleaje/core/project/kit-edits'
import { padsOf } from '@oleaje/core/project/nodes/split'
import type { Split, Track } from '@oleaje/core/project/schema'
import { readPads } from '@oleaje/core/sources/kit'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Which pads of a kit go along which branch. */
const props = defineProps<{ split: Split; track: Track }>()
const { doc } = useSession()
const pads = computed(() => readPads(props.track.source?.data))
const homes = computed(() => props.split.branches.map((_, b) => padsOf(props.split, b, pads.value.length)))

/** A pad goes along a branch, or back to the last one. */
function toggle(branch: number, pad: number): void {
  const b = props.split.branches[branch]
  if (!b) return
  const now = homes.value[branch] ?? []
  doc.edit(
    'Choose pads',
    setBranchPads(
      b.id,
      now.includes(pad) ? now.filter((p) => p !== pad) : [...now, pad].sort((x, y) => x - y),
    ),
  )
}
</script>

<template>
  <p v-if="!pads.length" class="text-second">This track has no pads, so all of it goes to the last branch.</p>
  <ul v-else class="min-h-0 flex-1 overflow-y-auto" aria-label="Pads by branch">
    <li v-for="(b, i) in split.branches" :key="b.id" class="border-b border-dotted border-line py-1">
      <span class="water-name mr-2 text-name">{{ b.name }}</span>
      <template v-if="i < split.branches.length - 1">
        <button
          v-for="(p, k) in pads"
          :key="k"
          class="small-button mr-1"
          :aria-pressed="homes[i]?.includes(k)"
          :aria-label="`${p.name} along ${b.name}`"
          @click="toggle(i, k)"
        >
          {{ p.name }}
        </button>
      </template>
      <span v-else class="text-second">{{
        (homes[i] ?? []).map((k) => pads[k]?.name).join(', ') || 'nothing'
      }}</span>
    </li>
  </ul>
</template>
