<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { newId } from '@oleaje/core/project/new'
import {
  addBus,
  addSend,
  homeOf,
  refusedWay,
  removeSend,
  setOutput,
  setSend,
} from '@oleaje/core/project/routing'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Where a track goes, and what of it or of a branch goes to buses beside that. */
const props = defineProps<{ from: string; branch?: boolean }>()
const { doc } = useSession()
const track = computed(() => (doc.project ? homeOf(doc.project, props.from) : undefined))
const buses = computed(() =>
  (doc.project?.tracks ?? []).filter((t) => t.kind === 'bus' && t.id !== track.value?.id),
)
const sends = computed(() => (doc.project?.sends ?? []).filter((s) => s.from === props.from))
const nameOf = (id: string): string => doc.project?.tracks.find((t) => t.id === id)?.name ?? ''
const output = computed(() => (track.value?.output === null ? 'nowhere' : (track.value?.output ?? 'mix')))
const outputs = computed(() => [
  { value: 'mix', text: nameOf(doc.project?.tracks.at(-1)?.id ?? '') },
  ...buses.value.map((b) => ({ value: b.id, text: b.name })),
  { value: 'nowhere', text: 'sends only' },
])
const places = computed(() => [
  { value: '', text: 'bus…' },
  ...buses.value.map((b) => ({ value: b.id, text: b.name })),
  { value: 'new', text: 'new bus' },
])

/** Gives the reason where sound would form a feedback loop. */
function refused(to: string): boolean {
  const why = doc.project && refusedWay(doc.project, props.from, to)
  if (why) doc.trouble = why
  return !!why
}

function turn(to: string): void {
  if (to === 'mix') return doc.edit('Route to the mix', setOutput(props.from, undefined))
  if (to === 'nowhere') return doc.edit('Route to sends only', setOutput(props.from, null))
  if (!refused(to)) doc.edit(`Send to ${nameOf(to)}`, setOutput(props.from, to))
}

function send(to: string): void {
  if (to === 'new') {
    const id = newId()
    return doc.edit(
      'Send to new bus',
      together(
        addBus(`Bus ${(doc.project?.tracks ?? []).filter((t) => t.kind === 'bus').length + 1}`, id),
        addSend(props.from, id),
      ),
    )
  }
  if (to && !refused(to)) doc.edit(`Send to ${nameOf(to)}`, addSend(props.from, to))
}
</script>

<template>
  <div
    class="mt-1 flex flex-col gap-0.5 text-tiny"
    role="group"
    :aria-label="branch ? 'Branch sends' : 'Output and sends'"
  >
    <div class="flex flex-wrap items-center gap-x-3 gap-y-0.5">
      <ChoiceField
        v-if="!branch && track?.kind !== 'mix'"
        label="Out"
        tip="Chooses the output"
        :model-value="output"
        :options="outputs"
        @update:model-value="turn"
      />
      <ChoiceField
        label="Send"
        tip="Adds a send to a bus"
        model-value=""
        :options="places"
        @update:model-value="send"
      />
    </div>
    <div v-for="s in sends" :key="s.id" class="flex items-end gap-1">
      <MiniGauge class="min-w-0 flex-1" :owner="s.id" param="level" :name="`to ${nameOf(s.to)}`" />
      <button
        class="small-button"
        :aria-pressed="s.before"
        :aria-label="`Pre-fader send to ${nameOf(s.to)}`"
        :title="s.before ? 'Pre-fader: not affected by level and mute' : 'Post-fader: follows level and mute'"
        @click="doc.edit('Change send', setSend(s.id, { before: !s.before }))"
      >
        {{ s.before ? 'pre' : 'post' }}
      </button>
      <button
        class="small-button"
        :aria-label="`Remove the send to ${nameOf(s.to)}`"
        title="Removes the send"
        @click="doc.edit(`Remove the send to ${nameOf(s.to)}`, removeSend(s.id))"
      >
        ×
      </button>
    </div>
  </div>
</template>
