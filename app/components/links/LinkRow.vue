<script setup lang="ts">
import { gaugeKey, pathOf } from '@oleaje/core/project/param-path'
import { computed } from 'vue'
import { formatValue } from '@oleaje/core/units/text'
import { type LinkView, linkModes, linkSpecs } from '../../composables/useLink'
import { useSession } from '../../composables/useSession'

/**
 * One link in the table. A row that scrolls by is used again for another link; a cell whose text stays is not
 * made again.
 */
const props = defineProps<{
  row: LinkView
  top: number
  chosen: boolean
  late: boolean
  columns: string
  /** Reads what was typed; throws a sentence where it makes no sense. */
  type: (what: 'from' | 'to' | 'curve' | 'slew' | 'amount', text: string) => void
}>()
const emit = defineEmits<{ choose: [on: boolean]; mode: []; switch: [] }>()
const session = useSession()
const { selection } = session

/** Outputs that are the one anybody would expect of their modulator, and need no name. */
const PLAIN = ['wave', 'level', 'value', 'drift', 'curve', 'envelope', 'result']

const link = computed(() => props.row.link)
const path = computed(() => pathOf(link.value.target))
const key = computed(() => gaugeKey(link.value.target.owner, path.value))
/** The editable cells, from left to right. */
const cells = computed(() => {
  const { mode, curve, slewUp, amount } = link.value
  return [
    { what: 'from', name: 'Minimum', text: props.row.from },
    { what: 'to', name: 'Maximum', text: props.row.to },
    { what: 'mode', name: 'Range', text: linkModes[mode] },
    { what: 'curve', name: 'Bend', text: formatValue(linkSpecs.curve, curve) },
    { what: 'slew', name: 'Slew', text: formatValue(linkSpecs.slew, slewUp) },
    { what: 'amount', name: 'Amount', text: formatValue(linkSpecs.amount, amount) },
  ] as const
})
const what = computed(() => `${props.row.source} on ${props.row.owner} ${props.row.param}`)
</script>

<template>
  <div
    role="row"
    :data-row="link.id"
    class="link-row absolute inset-x-0 grid h-8 items-center gap-2 border-b border-dotted border-line"
    :class="[chosen ? 'bg-shoal' : '', link.on ? '' : 'text-second']"
    :style="{ gridTemplateColumns: columns, transform: `translateY(${top}px)` }"
    @pointerenter="selection.pointed = { modulator: link.source, target: key }"
    @pointerleave="selection.pointed = null"
  >
    <!-- a mark of one of many rows: Headless UI for Vue has no checkbox, and a switch would say that
         something goes on -->
    <span role="cell"
      ><input
        type="checkbox"
        :checked="chosen"
        :aria-label="`Select ${row.source} to ${row.owner} ${row.param}`"
        @change="emit('choose', ($event.target as HTMLInputElement).checked)"
    /></span>
    <span
      v-memo="[row.letter, row.hue, row.source, link.output]"
      role="cell"
      class="flex min-w-0 items-center gap-1"
      ><Badge :letter="row.letter || '·'" :hue="row.hue" small /><span
        class="water-name truncate text-name"
        >{{ row.source }}</span
      >
      <span v-if="!PLAIN.includes(link.output)" class="text-second">{{ link.output }}</span></span
    >
    <span
      v-memo="[what, row.track, late]"
      role="cell"
      class="min-w-0 truncate"
      :title="`${row.owner}, ${row.param}, ${row.track}`"
      >{{ row.owner }}, {{ row.param.toLowerCase() }} <span class="text-second">{{ row.track }}</span><span
        v-if="late"
        class="text-magenta"
        title="Feedback: one block late"
      >
        ↻</span
      ></span
    >
    <span v-for="cell in cells" :key="cell.what" v-memo="[what, cell.text]" role="cell"
      ><button
        v-if="cell.what === 'mode'"
        class="small-button w-full"
        :aria-label="`Range of ${what}: ${cell.text}`"
        title="Follows base: the range moves with the base value. Absolute: it stays. Pitch: it follows the note"
        @click="emit('mode')"
      >
        {{ cell.text }}</button
      ><TableField
        v-else
        :text="cell.text"
        :label="`${cell.name} of ${what}`"
        :take="(text: string) => type(cell.what, text)"
    /></span>
    <span v-memo="[what, link.on]" role="cell"
      ><button
        class="small-button"
        :aria-pressed="link.on"
        :aria-label="`${what}: ${link.on ? 'on' : 'off'}`"
        @click="emit('switch')"
      >
        {{ link.on ? 'on' : 'off' }}
      </button></span
    >
    <span role="cell"><MatterMark :of="link.id" /></span>
    <span
      v-memo="[key, row.hue]"
      role="cell"
      class="relative h-2.5 overflow-hidden border border-water bg-shoal"
      ><i
        :data-live="`live:${key.replace('[*]', '[0]')}`"
        class="absolute inset-y-0 left-0 w-2.5"
        :style="{ background: `var(--hue-${row.hue})` }"
    /></span>
    <span v-memo="[what, key]" role="cell"
      ><button
        class="small-button"
        :aria-label="`To the gauge of ${row.owner} ${row.param}`"
        title="Shows the gauge on the Bench"
        @click="session.views.showGauge(link.target.owner, path)"
      >
        gauge
      </button></span
    >
  </div>
</template>

<style scoped>
.link-row {
  contain: strict;
}
</style>
