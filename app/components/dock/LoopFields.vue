<script setup lang="ts">
import { setLoop } from '@oleaje/core/project/song-edits'
import { amount } from '@oleaje/core/units/parameter'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Start and end of the loop, in bars counted from 1. The end is where the next round begins. */
const { doc } = useSession()
const bar = computed(() => doc.project?.beatsPerBar ?? 4)
const specs = {
  start: amount('Loop start in bars', { min: 1, max: 25_000, default: 1 }),
  end: amount('Loop end in bars', { min: 1, max: 25_000, default: 5 }),
} as const

/** Says why an end cannot lie there; nothing where it can. */
function check(which: 'start' | 'end', at: number): string | undefined {
  const loop = doc.project?.loop
  if (!loop) return undefined
  const beat = (at - 1) * bar.value
  if (which === 'start' && beat >= loop.end)
    return `The loop ends at bar ${loop.end / bar.value + 1}. Enter an earlier start.`
  if (which === 'end' && beat <= loop.start)
    return `The loop starts at bar ${loop.start / bar.value + 1}. Enter a later end.`
  return undefined
}
</script>

<template>
  <div class="flex items-center gap-1 text-tiny text-second">
    <span>bars</span>
    <template v-for="which in ['start', 'end'] as const" :key="which">
      <span v-if="which === 'end'" aria-hidden="true">–</span>
      <ValueField
        class="w-11.5"
        :spec="specs[which]"
        :value="(doc.project?.loop[which] ?? 0) / bar + 1"
        :check="(at: number) => check(which, at)"
        @take="doc.edit('Set loop', setLoop({ [which]: ($event - 1) * bar }))"
      />
    </template>
  </div>
</template>
