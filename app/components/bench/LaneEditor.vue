<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { addLaneItem, removeLaneItem, setParam } from '@oleaje/core/project/value-edits'
import { type Column, evenColumn, gatherColumn, leanColumn } from '@oleaje/core/project/lane-edits'
import { isStepped } from '@oleaje/core/units/parameter'
import { chordOf, noteNames, scales } from '@oleaje/core/units/tuning'
import { pathOf } from '@oleaje/core/project/param-path'
import { itemsOf, lanesOf } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * The items of a lane (bands, strings): one chosen by its number, its gauges below; or the gauges of every
 * one at once.
 */
const props = defineProps<{ owner: string; lane: string }>()
const { doc, selection, monitoring, screen } = useSession()
const every = ref(false)
const found = computed(() => (doc.project ? findOwner(doc.project, props.owner) : undefined))
const spec = computed(() => (found.value ? lanesOf(found.value)[props.lane] : undefined))
const items = computed(() => (found.value ? itemsOf(found.value, props.lane) : []))
const chosen = computed(() => Math.min(selection.shownItem, items.value.length - 1))
const path = (param: string): string =>
  pathOf(every.value ? { lane: props.lane, param } : { lane: props.lane, index: chosen.value, param })

const ways = [
  {
    text: 'gather',
    label: 'Gather',
    tip: 'Moves all values towards their mean',
    edit: (c: Column) => gatherColumn(c, 0.25),
  },
  {
    text: 'spread',
    label: 'Spread',
    tip: 'Moves all values away from their mean',
    edit: (c: Column) => gatherColumn(c, -0.25),
  },
  {
    text: 'lean up',
    label: 'Lean',
    tip: 'Raises the last and lowers the first',
    edit: (c: Column) => leanColumn(c, 0.1),
  },
  {
    text: 'lean down',
    label: 'Lean',
    tip: 'Lowers the last and raises the first',
    edit: (c: Column) => leanColumn(c, -0.1),
  },
  {
    text: 'even out',
    label: 'Even out',
    tip: 'Spaces all values evenly from the first to the last',
    edit: (c: Column) => evenColumn(c),
  },
] as const

const root = ref(50)
const scale = ref(2)
const roots = Array.from({ length: 37 }, (_, i) => ({
  value: i + 28,
  text: `${noteNames[(i + 28) % 12]}${Math.floor((i + 28) / 12) - 1}`,
}))
const scaleNames = scales.map((x, value) => ({ value, text: x.name }))
/** Tunes all items to a chord. */
function tune(): void {
  const notes = chordOf(root.value, scale.value, items.value.length)
  doc.edit(
    'Tune to chord',
    together(
      ...notes.map((note, index) =>
        setParam(props.owner, pathOf({ lane: props.lane, index, param: 'note' }), note),
      ),
    ),
  )
}

function add(): void {
  doc.edit(`Add ${spec.value?.item}`, addLaneItem(props.owner, props.lane, chosen.value))
  selection.shownItem = chosen.value + 1
}

function remove(): void {
  doc.edit(`Remove ${spec.value?.item}`, removeLaneItem(props.owner, props.lane, chosen.value))
  selection.shownItem = Math.max(0, chosen.value - 1)
}
</script>

<template>
  <section v-if="spec" class="mb-2 border-b border-line pb-1" :aria-label="spec.name">
    <div class="flex flex-wrap items-center gap-1 py-1">
      <span class="water-name mr-1 text-large">{{ spec.name }}</span>
      <button
        v-for="(_, i) in items"
        :key="i"
        class="small-button"
        :aria-pressed="!every && i === chosen"
        :aria-label="`${spec.item} ${i + 1}`"
        @click="
          () => {
            every = false
            selection.shownItem = i
          }
        "
      >
        {{ i + 1 }}
      </button>
      <button
        class="small-button"
        :aria-pressed="every"
        :title="`Edits all of them by the same amount. A link to all can be fanned out.`"
        @click="every = !every"
      >
        All
      </button>
      <button
        v-if="spec.solo"
        class="small-button"
        :aria-pressed="monitoring.soloItems?.node === owner && monitoring.soloItems.chosen.includes(chosen)"
        :title="`Solos this ${spec.item}. Does not affect renders.`"
        @click="monitoring.toggleSoloItem(owner, chosen)"
      >
        Solo
      </button>
      <span class="flex-1" />
      <button
        class="small-button"
        :aria-pressed="screen.laneTables"
        title="Shows a table of all values. Drag across it to draw."
        @click="screen.laneTables = !screen.laneTables"
      >
        Table
      </button>
      <button
        class="small-button"
        :disabled="items.length >= spec.most"
        :title="spec.spread ? `Adds a ${spec.item} in the widest gap` : `Adds a copy of this ${spec.item}`"
        @click="add"
      >
        Add
      </button>
      <button class="small-button" :disabled="items.length <= spec.least" @click="remove">Remove</button>
    </div>
    <div v-if="spec.params.note?.unit === 'note'" class="flex items-center gap-1 py-1 text-small">
      <span class="text-second">Tune all {{ spec.name.toLowerCase() }} to</span>
      <ChoiceField v-model="root" label="Root of the chord" hide-label :options="roots" />
      <ChoiceField v-model="scale" label="Scale of the chord" hide-label :options="scaleNames" />
      <button class="small-button" title="Tunes them to a chord of thirds from the root" @click="tune">
        Tune
      </button>
    </div>
    <LaneTable v-if="screen.laneTables" :owner="owner" :lane="lane" />
    <template v-for="(s, k) in spec.params" :key="`${k}${every ? '*' : chosen}`">
      <GaugeRow :owner="owner" :param="path(k)" :name="s.name" />
      <div
        v-if="every && !isStepped(s)"
        class="flex gap-1 pb-1 pl-24"
        role="group"
        :aria-label="`${s.name} of every ${spec.item}`"
      >
        <button
          v-for="way in ways"
          :key="way.text"
          class="small-button"
          :title="way.tip"
          :aria-label="`${way.text}: ${s.name}`"
          @click="doc.edit(`${way.label} ${s.name.toLowerCase()}`, way.edit({ owner, lane, param: k }))"
        >
          {{ way.text }}
        </button>
      </div>
    </template>
  </section>
</template>
