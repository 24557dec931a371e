<script setup lang="ts">
import { splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import { findTarget, ownerName, paramName } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { findOwner } from '@oleaje/core/project/walk'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** States that are temporary and must not be forgotten: a modulator heard alone, a macro that learns, a ride, a control being learnt. */
const { doc, bench, host, automation } = useSession()
const modulator = (id: string | null): string => doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)?.name ?? ''
const gauge = (key: string): string => {
  const [owner, path] = splitGaugeKey(key)
  const found = doc.project && findTarget(doc.project, targetAt(owner, path))
  return found ? `${paramName(found.owner, path).toLowerCase()} of ${ownerName(found.owner)}` : ''
}
/** What is heard instead of the whole, by name. */
const heard = computed(() => {
  const owner = (id: string): string => {
    const found = doc.project && findOwner(doc.project, id)
    return found ? ownerName(found) : ''
  }
  return [
    bench.hearDry && 'the dry track',
    bench.upTo && `everything up to ${owner(bench.upTo)}`,
    bench.part && (bench.part.what === 'wet' ? `the wet part of ${owner(bench.part.node)}` : `what ${owner(bench.part.node)} adds`),
    bench.soloItems &&
      `band ${bench.soloItems.chosen
        .map((i) => i + 1)
        .sort()
        .join(', ')} of ${owner(bench.soloItems.node)}`,
    bench.soloBranches.length > 0 && `branch ${bench.soloBranches.map(owner).join(', ')}`,
    bench.soloTracks.length > 0 &&
      `track ${bench.soloTracks.map((id) => doc.project?.tracks.find((t) => t.id === id)?.name ?? '').join(', ')}`,
  ].filter((v): v is string => typeof v === 'string')
})
const learning = computed(() => bench.learning)
const isShown = computed(
  () =>
    heard.value.length > 0 ||
    [
      bench.noOutput,
      bench.bringing,
      bench.overBudget,
      bench.removed,
      bench.alone,
      bench.learning,
      bench.recordingAutomation,
      bench.controlFor,
      bench.repointing,
    ].some(Boolean),
)

function learn(end: 'from' | 'to'): void {
  const l = learning.value
  if (!l) return
  doc.edit('Move the macro', setParam(l.macro, 'value', end === 'to' ? 1 : 0))
  bench.learning = { ...l, end }
}
</script>

<template>
  <div
    v-if="isShown"
    role="status"
    class="flex flex-wrap items-center gap-x-4 border-b border-line bg-shoal px-4 py-1 text-small"
  >
    <span
      v-if="bench.noOutput"
      role="alert"
      class="flex items-center gap-2"
    >
      <span class="h-2.5 w-2.5 bg-magenta" /> No audio output. Check your output device.
      <button
        class="small-button"
        title="Opens the audio output again"
        @click="host.tryAgain()"
      >Try again</button>
    </span>
    <span v-if="bench.bringing" class="flex items-center gap-2">
      Bringing in “{{ bench.bringing.name }}”
      <progress
        class="w-32"
        :value="bench.bringing.done"
        :aria-label="`Bringing in ${bench.bringing.name}`"
      />
      {{ Math.round(bench.bringing.done * 100) }} %
      <button
        class="small-button"
        title="Nothing of it is kept"
        @click="bench.bringing.stop()"
      >Stop</button>
    </span>
    <span v-if="bench.overBudget" class="flex items-center gap-2"><span class="h-2.5 w-2.5 bg-magenta" /> {{ bench.overBudget }}</span>
    <span
      v-if="heard.length"
      class="flex items-center gap-2"
    >
      <span class="h-2.5 w-2.5 bg-magenta" /> You hear {{ heard.join(' and ') }} alone; a render has the whole. <button
        class="small-button"
        title="Shift+H"
        @click="bench.hearAll()"
      >Hear all</button></span>
    <span v-if="bench.removed" class="flex items-center gap-2">
      {{ bench.removed.text }}
      <button
        class="small-button"
        title="Brings it back"
        @click="bench.settleRemoved(true)"
      >Bring it back</button>
      <button
        class="small-button"
        title="Leaves it removed"
        @click="bench.settleRemoved(false)"
      >Leave</button>
    </span>
    <span v-if="learning" class="flex items-center gap-2">
      <b
        class="water-name text-name"
      >
        {{ modulator(learning.macro) }}</b>
      learns its {{ learning.end === 'to' ? 'highest' : 'lowest' }}: set every gauge where it should be there.
      <button
        class="small-button"
        :aria-pressed="learning.end === 'from'"
        @click="learn('from')"
      >Lowest</button>
      <button
        class="small-button"
        :aria-pressed="learning.end === 'to'"
        @click="learn('to')"
      >Highest</button>
      <button
        class="small-button"
        title="Esc"
        @click="bench.learning = null"
      >Done</button>
    </span>
    <span
      v-if="bench.recordingAutomation"
      class="flex items-center gap-2"
    >
      <span
        class="h-2.5 w-2.5 rounded-full bg-magenta"
      />
      Recording the ride of {{ gauge(bench.recordingAutomation) }}{{ bench.playing ? '' : ': press Play' }} <button
        class="small-button"
        title="W"
        @click="automation.end()"
      >End the ride</button></span>
    <span
      v-if="bench.repointing"
      class="flex items-center gap-2"
    >
      Press the gauge that <b class="water-name text-name">{{ modulator(bench.repointing) }}</b> shall move instead. <button
        class="small-button"
        title="Esc"
        @click="bench.repointing = null"
      >Leave</button></span>
    <span
      v-if="bench.alone"
      class="flex items-center gap-2"
    >
      <b class="water-name text-name">{{ modulator(bench.alone) }}</b> is heard alone; the others stand still. <button
        class="small-button"
        title="O"
        @click="bench.alone = null"
      >All</button></span>
    <span
      v-if="bench.controlFor"
      class="flex items-center gap-2"
    >
      Move a control, play a note or press a key to steer {{ gauge(bench.controlFor) }}. <button
        class="small-button"
        title="Esc"
        @click="bench.controlFor = null"
      >Leave</button></span>
  </div>
</template>
