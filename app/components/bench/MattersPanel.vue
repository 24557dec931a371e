<script setup lang="ts">
import type { Contribution } from '@oleaje/core/search/what-matters'
import { nameAmong } from '@oleaje/core/project/targets'
import { pathOf } from '@oleaje/core/project/param-path'
import { findOwner } from '@oleaje/core/project/walk'
import { watchDebounced } from '@vueuse/core'
import { computed, nextTick, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * The contribution of each effect, link, modulator and macro of the selected track: the difference between
 * the sound with it and without it.
 */
const { doc, matters, screen, selection, views } = useSession()
const root = ref<HTMLElement | null>(null)
const toStart = (): void => root.value?.querySelector<HTMLElement>('[data-measure]')?.focus()
onMounted(() => void nextTick(toStart))
/** After a run, edits start another one once there have been none for a second. */
watchDebounced(
  [() => doc.project, () => selection.track?.id],
  () => {
    if (matters.count.value > 0 && !matters.isOfProject) void matters.run()
  },
  { debounce: 1000 },
)
/** The buttons of an offer go with it, so the focus does not stay there. */
function answer(removes: boolean): void {
  if (removes) matters.removeIdle()
  else matters.offered.value = null
  toStart()
}

const kinds = { effect: 'Effect', link: 'Link', modulator: 'Modulator', macro: 'Macro' } as const
function nameOf({ id }: Contribution): string {
  const owner = doc.project && findOwner(doc.project, id)
  return doc.project && owner ? nameAmong(doc.project, owner) : ''
}

const rows = computed(() =>
  [...matters.found.value.values()]
    .sort((a, b) => b.distance.total - a.distance.total)
    .map((c) => ({ ...c, name: nameOf(c), share: matters.costs.value.get(c.id) })),
)
const most = computed(() => Math.max(1, ...rows.value.map((r) => r.distance.total)))
const figure = (db: number): string => `${db.toFixed(db < 10 ? 2 : 1)} dB`
/** Where the sound differs, and the level of the difference signal. */
function parts({ distance: d, residue }: Contribution): string {
  const signal = Number.isFinite(residue) ? residue.toFixed(0).replace('-', '−') : '−∞'
  return [
    `Tone ${figure(d.tone)}`,
    `envelope ${figure(d.envelope)}`,
    `movement ${figure(d.movement)}`,
    `loudness ${d.loudness.toFixed(2)} LU`,
    `stereo ${figure(d.stereo)}`,
    `difference signal ${signal} dB`,
  ].join(' · ')
}
const status = computed(() => {
  const { running, said, found, count, isCurrent } = matters
  if (running.value) return `${found.value.size} of ${count.value} parts measured`
  if (said.value) return said.value
  if (found.value.size === 0) return 'Measures four seconds of the selected track.'
  if (isCurrent.value) return `${rows.value.length} parts, ${matters.idle.value.length} idle`
  return count.value
    ? 'The project has changed. Measuring in a moment.'
    : 'The project has changed. Measure again.'
})
function show(c: Contribution): void {
  const { project } = doc
  const owner = project && findOwner(project, c.id)
  if (owner?.kind === 'link') views.showGauge(owner.link.target.owner, pathOf(owner.link.target))
  else if (owner?.kind === 'modulator') selection.traced = c.id
  else selection.select(c.id)
}
</script>

<template>
  <aside
    ref="root"
    class="fixed right-0.5 bottom-35 z-30 flex max-h-120 w-96 flex-col border border-ink bg-sheet p-3"
    aria-label="What matters"
    @keydown.esc.stop="screen.matters = false"
  >
    <header class="flex items-center gap-2">
      <h2 class="panel-title flex-1">What matters</h2>
      <button
        class="plain-button"
        data-measure
        title="Measures the sound with and without each part, at the same loudness"
        @click="matters.running.value ? matters.cancel() : matters.run()"
      >
        {{ matters.running.value ? 'Cancel' : 'Measure' }}
      </button>
      <button
        class="small-button"
        aria-label="Close What matters"
        title="Closes the panel (Shift+W)"
        @click="screen.matters = false"
      >
        ×
      </button>
    </header>
    <p class="mt-1 text-small text-second" role="status">{{ status }}</p>
    <div
      v-if="rows.length"
      class="mt-1 min-h-0 flex-1 overflow-y-auto border-t border-line"
      role="table"
      aria-label="Contributions"
      tabindex="0"
    >
      <div
        v-for="r in rows"
        :key="r.id"
        role="row"
        class="border-b border-dotted border-line py-1 text-small"
      >
        <div class="flex items-baseline gap-2">
          <span role="cell" class="w-17 text-tiny text-second">{{ kinds[r.kind] }}</span>
          <span role="cell" class="min-w-0 flex-1 truncate">
            <button
              class="max-w-full truncate text-left underline decoration-dotted"
              :title="parts(r)"
              @click="show(r)"
            >
              {{ r.name }}
            </button>
          </span>
          <span role="cell" class="tabular-nums" :class="r.isIdle ? 'text-second' : ''">{{
            r.isIdle ? 'idle' : figure(r.distance.total)
          }}</span>
          <span role="cell" class="w-14 text-right text-tiny text-second tabular-nums">{{
            r.share ? `${(100 * r.share).toFixed(1)} % CPU` : ''
          }}</span>
        </div>
        <p v-if="r.reason" class="pl-19 text-tiny text-second">{{ r.reason }}</p>
        <i
          v-else
          class="mt-0.5 block h-0.5 bg-ink"
          aria-hidden="true"
          :style="{ width: `${(100 * r.distance.total) / most}%` }"
        />
      </div>
    </div>
    <footer
      v-if="matters.idle.value.length && !matters.running.value"
      class="mt-2 flex items-center gap-2 text-small"
    >
      <template v-if="matters.offered.value">
        <span class="flex-1" role="status">
          Without {{ matters.offered.value.parts.length }} idle:
          {{ figure(matters.offered.value.change.total) }} different,
          {{ matters.offered.value.change.loudness.toFixed(2) }} LU
        </span>
        <button class="plain-button" title="One undo step" @click="answer(true)">Remove</button>
        <button class="plain-button" title="Leaves the chain as it is" @click="answer(false)">Keep</button>
      </template>
      <button
        v-else
        class="plain-button"
        :disabled="!matters.isCurrent.value"
        title="Measures the sound without all idle parts, before they are removed"
        @click="matters.offerRemoval()"
      >
        Remove idle…
      </button>
    </footer>
  </aside>
</template>
