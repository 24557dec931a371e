<script setup lang="ts">
import { sourceDefinition } from '@oleaje/core/sources/index'
import { type StemKind, stemKinds } from '@oleaje/core/render/stems'
import { computed } from 'vue'
import { useEventListener, useNow } from '@vueuse/core'
import { useSession } from '../../composables/useSession'

/** What is rendered and how on the left; the files, their progress and what was measured on the right. */
const { doc, rendering, screen, tryOuts, views } = useSession()
const { order, plan, queue, running } = rendering
const now = useNow({ interval: 500 })

const change = (to: Partial<typeof order.value>): void => {
  order.value = { ...order.value, ...to }
}
/** The track, where what is heard is one; the mix else. */
const track = computed({
  get: () => order.value.track ?? '',
  set: (id) => change({ track: id || undefined }),
})
const ofTrack = new Set<StemKind>(['track', 'branches', 'snapshots'])
const needsTrack = computed(() => ofTrack.has(order.value.what))
const hasTrack = computed(() => !rendering.kept.value && !['mix', 'stems'].includes(order.value.what))
const tracks = computed(() => [
  ...(needsTrack.value ? [] : [{ value: '', text: 'The mix' }]),
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind !== 'mix')
    .map((t) => ({ value: t.id, text: `${t.name}, through the mix` })),
])
const kept = computed(() => tryOuts.keptStems())
const whats = computed(() => [
  ...stemKinds,
  ...(kept.value.length ? [{ value: 'kept' as const, text: 'Try-outs that were kept' }] : []),
])
const what = computed({
  get: () => (rendering.kept.value ? ('kept' as const) : order.value.what),
  set: (kind) => {
    rendering.kept.value = kind === 'kept' ? kept.value : null
    if (kind === 'kept') return
    const first = doc.project?.tracks.find((t) => t.kind !== 'mix')?.id
    change({ what: kind, track: ofTrack.has(kind) ? (order.value.track ?? first) : order.value.track })
  },
})
/** Tracks with a live input, which are silent in renders. */
const silent = computed(() =>
  (doc.project?.tracks ?? [])
    .filter(
      (t) =>
        t.source &&
        sourceDefinition(t.source.type)?.device &&
        (!hasTrack.value || !order.value.track || order.value.track === t.id) &&
        (t.params.mute ?? 0) < 0.5,
    )
    .map((t) => t.name),
)
const action = computed(() =>
  plan.value.files.length > 1
    ? `Render ${plan.value.files.length} files`
    : `Render to ${order.value.format.toUpperCase()}`,
)
const remaining = computed(() => {
  const done = rendering.done.value
  if (!running.value || !(done > 0.02)) return ''
  const passed = (now.value.getTime() - rendering.began) / 1000
  const left = Math.ceil((passed / done) * (1 - done))
  return left < 90 ? `about ${left} s left` : `about ${Math.round(left / 60)} min left`
})
/** Highest amount by which a file is over full scale; those of whole numbers are clipped. */
const over = computed(() => {
  const found = queue.value.filter((f) => f.figures && (f.figures.overs > 0 || f.figures.truePeakDb > 0))
  const overs = found.reduce((sum, f) => sum + (f.figures?.overs ?? 0), 0)
  if (found.length === 0 || order.value.level.kind !== 'as it is') return ''
  return overs === 0
    ? 'between samples'
    : `in ${overs} samples${order.value.depth === 32 ? '' : ', which are clipped'}`
})
useEventListener('keydown', (e) => {
  if (e.key === 'Escape' && !screen.dialog && !(e.target as Element).closest?.('input')) void views.go('/')
})
/** Peak that a file is brought to where it went over, in dBTP. */
const CEILING = -1
const again = (kind: 'peak' | 'limited'): Promise<void> => {
  const { level } = order.value
  change({ level: { ...level, kind, ceiling: CEILING } })
  return rendering.start().finally(() => change({ level }))
}
</script>

<template>
  <section class="flex min-h-0" aria-label="Render">
    <RenderForm
      v-model:what="what"
      v-model:track="track"
      class="w-95 overflow-y-auto border-r border-line p-3"
      :order="order"
      :whats="whats"
      :tracks="hasTrack ? tracks : []"
      @change="change"
    />
    <div class="flex min-w-0 flex-1 flex-col">
      <div class="flex items-center gap-3 border-b border-line px-3 py-2">
        <button
          class="plain-button"
          :disabled="running || plan.files.length === 0"
          title="Renders and saves the files in the list"
          @click="rendering.start()"
        >
          {{ action }}
        </button>
        <button
          class="plain-button"
          :disabled="!running"
          title="Stops rendering; files in a folder stay"
          @click="rendering.cancel()"
        >
          Cancel
        </button>
        <progress
          v-if="running"
          class="w-40"
          :value="rendering.done.value"
          max="1"
          aria-label="Render progress"
        />
        <span class="text-second">{{ remaining }}</span>
        <p role="status" class="min-w-0 flex-1 truncate text-right text-second" :title="rendering.said.value">
          {{ plan.refused || rendering.said.value }}
        </p>
      </div>
      <p
        v-if="over && !running"
        role="alert"
        class="flex flex-wrap items-center gap-2 border-b border-line px-3 py-1 text-magenta"
      >
        The render exceeds 0 dBFS {{ over }}.
        <button class="small-button" title="Renders again at a lower level" @click="again('peak')">
          Normalise to −1 dBTP
        </button>
        <button class="small-button" title="Renders again with a limiter" @click="again('limited')">
          Limit to −1 dBTP
        </button>
      </p>
      <p v-if="silent.length" role="status" class="px-3 pt-2 text-small text-magenta">
        {{ silent.join(', ') }}
        {{ silent.length === 1 ? 'is a live input. It is' : 'are live inputs. They are' }} silent in renders.
      </p>
      <RenderTable class="min-h-0 flex-1 overflow-auto px-3 pt-2" />
      <p class="px-3 py-2 text-small text-second">
        Solo, dry, level matching and the safety limiter do not affect renders.
      </p>
    </div>
  </section>
</template>
