<script setup lang="ts">
import { heldSounds } from '../../composables/held-sounds'
import { MOST_PADS, readPads } from '@oleaje/core/sources/kit'
import { ownBranch, padSplitOf, removePad, setPad } from '@oleaje/core/project/kit-edits'
import type { Track } from '@oleaje/core/project/schema'
import { noteNames } from '@oleaje/core/units/tuning'
import { computed, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'

/**
 * The pads of a kit: each is struck where it is pressed, harder further down; the chosen one has its name,
 * its sound and its gauges.
 */
const props = defineProps<{ track: Track }>()
const { doc, host, selection, screen } = useSession()
const grid = ref<HTMLElement | null>(null)
const source = computed(() => props.track.source)
const pads = computed(() => readPads(source.value?.data))
const items = computed(() => source.value?.lanes?.pads ?? [])
const chosen = computed(() => Math.min(selection.shownItem, pads.value.length - 1))
const pad = computed(() => pads.value[chosen.value])
const noteOf = (i: number): number => Math.round(items.value[i]?.note ?? 36)
const noteName = (note: number): string => `${noteNames[note % 12]}${Math.floor(note / 12) - 1}`
const sounds = computed(() => [
  { value: '', text: 'no sound' },
  ...heldSounds(doc.project).map(([value, ref]) => ({ value, text: ref.name })),
])
const split = computed(() => padSplitOf(props.track))
const hasOwn = computed(() => split.value?.branches.some((b) => b.pads?.includes(chosen.value)) ?? false)
const paths = ['note', 'level', 'pan', 'tune', 'length', 'choke']

/** Strikes a pad; its key ends when the pointer is let go. */
function strike(e: PointerEvent, i: number): void {
  if (e.button !== 0) return
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  selection.shownItem = i
  play(i, 0.25 + 0.75 * Math.min(1, Math.max(0, (e.clientY - box.top) / box.height)))
}
function play(i: number, velocity: number): void {
  host.note(props.track.id, noteOf(i), velocity)
  host.note(props.track.id, noteOf(i), 0)
}

useFrame(() => {
  if (!source.value) return
  for (const el of grid.value?.querySelectorAll<HTMLElement>('[data-lamp]') ?? []) {
    const peak = host.telemetry.get(`read:source:${props.track.id}:pad${el.dataset.lamp}`)
    el.style.transform = `scaleX(${Math.min(1, Math.sqrt(peak))})`
  }
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto">
    <div ref="grid" class="grid shrink-0 auto-rows-fr grid-cols-4 gap-1" role="group" aria-label="Pads">
      <button
        v-for="(p, i) in pads"
        :key="i"
        class="relative flex min-h-11 touch-none flex-col items-start justify-between overflow-hidden border px-1.5 py-0.5 text-left"
        :class="i === chosen ? 'border-2 border-ink bg-sheet' : 'border-line bg-shoal'"
        :aria-pressed="i === chosen"
        :aria-label="`Play ${p.name}`"
        :title="`${p.name}: click to play; lower is louder`"
        @pointerdown="strike($event, i)"
        @keydown.enter.prevent="
          () => {
            selection.shownItem = i
            play(i, 0.8)
          }
        "
      >
        <span class="w-full truncate text-plain font-semibold">{{ p.name }}</span>
        <span class="text-tiny text-second">{{ noteName(noteOf(i)) }}</span>
        <i :data-lamp="i" class="absolute inset-x-0 bottom-0 h-1 origin-left bg-deep" aria-hidden="true" />
      </button>
      <button
        v-if="pads.length < MOST_PADS"
        class="min-h-11 border border-dashed border-second text-small text-second"
        title="Adds a pad with a shipped sound or a file"
        @click="
          () => {
            screen.takeAs = 'pad'
            screen.replacing = track.id
            screen.dialog = 'track'
          }
        "
      >
        Add pad…
      </button>
    </div>
    <div v-if="pad && source" class="flex flex-wrap items-center gap-2">
      <TextField
        class="w-28 bg-transparent font-semibold"
        :value="pad.name"
        :aria-label="`Name of pad ${chosen + 1}`"
        @change="
          doc.edit(
            'Rename pad',
            setPad(source.id, chosen, { name: ($event.target as HTMLInputElement).value.slice(0, 60) }),
          )
        "
        @keydown.stop
      />
      <ChoiceField
        label="Sound"
        :model-value="pad.audio ?? ''"
        :options="sounds"
        @update:model-value="
          doc.edit('Change pad sound', setPad(source.id, chosen, { audio: $event || null }))
        "
      />
      <button
        class="plain-button"
        :disabled="hasOwn"
        title="Gives this pad its own branch at the start of the chain"
        @click="doc.edit(`Branch for ${pad.name}`, ownBranch(track.id, chosen, pad.name))"
      >
        Own branch
      </button>
      <button
        class="plain-button"
        :disabled="pads.length < 2"
        title="Removes the pad"
        @click="doc.edit(`Remove pad ${pad.name}`, removePad(source.id, chosen))"
      >
        Remove pad
      </button>
    </div>
    <div v-if="source && pad">
      <GaugeRow v-for="k in paths" :key="k" :owner="source.id" :param="`pads[${chosen}].${k}`" />
    </div>
  </div>
</template>
