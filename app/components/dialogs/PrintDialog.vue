<script setup lang="ts">
import { branchesOf } from '@oleaje/core/project/nodes/index'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/** Renders a track or the mix over the loop into a new sound, on a new track. */
const { doc, printing, selection, screen } = useSession()
const MIX = 'mix'
const track = ref(selection.track && selection.track.kind !== 'mix' ? selection.track.id : MIX)
const tail = ref<'folded' | 'kept'>('folded')
const inPlace = ref(true)
const progress = ref(-1)
const tracks = computed(() => [
  { value: MIX, text: 'the mix' },
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind !== 'mix')
    .flatMap((t) => [
      { value: t.id, text: t.name },
      ...[...nodesIn(heardChain(t).nodes)]
        .flatMap((n) => branchesOf(n))
        .map((b) => ({ value: b.id, text: `${t.name}, ${b.name}` })),
    ]),
])
const tails = [
  { value: 'folded', text: 'folded into the start of the loop' },
  { value: 'kept', text: 'kept after the loop' },
] as const
const places = computed(() =>
  [
    { value: true, text: 'replaces the printed track, which is muted' },
    { value: false, text: 'is muted' },
  ].map((p) => ({ ...p, value: p.value ? 'yes' : 'no' })),
)

const said = computed(() =>
  progress.value >= 0 ? `${Math.round(progress.value * 100)} %` : 'the loop, with all motion',
)

async function start(): Promise<void> {
  progress.value = 0
  const done = await printing.print(
    { track: track.value === MIX ? null : track.value, tail: tail.value, inPlace: inPlace.value },
    (at) => {
      progress.value = at
    },
  )
  progress.value = -1
  if (done) screen.dialog = ''
}
</script>

<template>
  <BaseDialog title="Print" @close="screen.dialog = ''">
    <div class="grid gap-2" style="grid-template-columns: 100px 1fr">
      <ChoiceRow v-model="track" text="What" label="Track to print" :options="tracks" />
      <ChoiceRow v-model="tail" text="Tail" label="Tail" :options="tails" />
      <ChoiceRow
        :model-value="inPlace ? 'yes' : 'no'"
        text="New track"
        :options="places"
        @update:model-value="inPlace = $event === 'yes'"
      />
    </div>
    <div class="mt-4 flex items-center gap-3">
      <button class="plain-button" :disabled="progress >= 0" @click="start">Print</button>
      <span role="status" class="text-second">{{ said }}</span>
    </div>
  </BaseDialog>
</template>
