<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import type { QueuedFile } from '../../services/rendering'

/** The files of the order before they are made; then their progress and what was measured in each. */
const { rendering } = useSession()
const planned = computed(() => rendering.plan.value.files)
/** What was made stays in sight until the order names other files. */
const made = computed(() => {
  const names = planned.value.map((f) => f.name).join('\n')
  const { value } = rendering.queue
  return rendering.running.value || value.map((f) => f.name).join('\n') === names ? value : []
})
const number = (v: number, unit: string): string =>
  v > -70 && Number.isFinite(v) ? `${v.toFixed(1).replace('-', '−')} ${unit}` : 'silent'
const time = (seconds: number): string => `${seconds.toFixed(2)} s`
const states: Readonly<Record<QueuedFile['state'], string>> = {
  waiting: 'Waiting',
  rendering: 'Rendering',
  done: 'Saved',
  failed: 'Failed',
  cancelled: 'Cancelled',
}
const state = (f: QueuedFile): string =>
  f.state === 'rendering' ? `${Math.floor(100 * f.done)} %` : f.failed || states[f.state]
/** What the level did, in words. */
function level(f: QueuedFile): string {
  const found = f.figures?.level
  if (!found) return ''
  if (found.missed) return `missed by ${number(Math.abs(found.missed), 'LU')}`
  const gain = found.gain === 0 ? '' : number(found.gain, 'dB')
  return [gain && (found.gain > 0 ? `+${gain}` : gain), found.ceiling === null ? '' : 'limited']
    .filter(Boolean)
    .join(', ')
}
</script>

<template>
  <div>
    <table class="w-full text-left">
      <thead>
        <tr class="border-b border-line text-small text-second">
          <th scope="col" class="py-1 font-normal">File</th>
          <th scope="col" class="font-normal">{{ made.length ? 'State' : 'Range' }}</th>
          <th v-if="made.length" scope="col" class="text-right font-normal">Length</th>
          <th v-if="made.length" scope="col" class="text-right font-normal">Loudness</th>
          <th v-if="made.length" scope="col" class="text-right font-normal">True peak</th>
          <th v-if="made.length" scope="col" class="text-right font-normal">Over</th>
          <th v-if="made.length" scope="col" class="text-right font-normal">Level</th>
        </tr>
      </thead>
      <tbody v-if="made.length">
        <tr v-for="f in made" :key="f.name" class="border-b border-line">
          <td class="py-1">{{ f.name }}</td>
          <td :class="f.failed ? 'text-magenta' : ''">{{ state(f) }}</td>
          <td class="text-right">{{ f.figures ? time(f.figures.seconds) : '' }}</td>
          <td class="text-right">{{ f.figures ? number(f.figures.loudness, 'LUFS') : '' }}</td>
          <td class="text-right">{{ f.figures ? number(f.figures.truePeakDb, 'dBTP') : '' }}</td>
          <td class="text-right">{{ f.figures?.overs || '' }}</td>
          <td class="text-right">{{ level(f) }}</td>
        </tr>
      </tbody>
      <tbody v-else>
        <tr v-for="f in planned" :key="f.name" class="border-b border-line">
          <td class="py-1">{{ f.name }}</td>
          <td>{{ f.range.name }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
