<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { addLaneItem, removeLaneItem, setLaneLength, setParam } from '@oleaje/core/project/value-edits'
import { type Column, evenColumn, gatherColumn, leanColumn } from '@oleaje/core/project/lane-edits'
import { isStepped, number } from '@oleaje/core/units/parameter'
import { chordOf, noteNames, scales } from '@oleaje/core/units/tuning'
import { pathOf } from '@oleaje/core/project/param-path'
import { itemsOf, lanesOf, shownColumns } from '@oleaje/core/project/targets'
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
/** More items than this are chosen from a list. */
const FEW = 10
const found = computed(() => (doc.project ? findOwner(doc.project, props.owner) : undefined))
const spec = computed(() => (found.value ? lanesOf(found.value)[props.lane] : undefined))
const items = computed(() => (found.value ? itemsOf(found.value, props.lane) : []))
const chosen = computed(() => Math.min(selection.shownItem, items.value.length - 1))
const isTable = computed({
  get: () => screen.laneTables[`${props.owner}.${props.lane}`] ?? !!spec.value?.asTable,
  set: (is) => {
    screen.laneTables = { ...screen.laneTables, [`${props.owner}.${props.lane}`]: is }
  },
})
const itemNames = computed(() =>
  items.value.map((_, value) => ({ value, text: `${spec.value?.item ?? ''} ${value + 1}` })),
)
const columns = computed(() => shownColumns(found.value, props.lane))
const count = computed(() =>
  number(`Number of ${spec.value?.name.toLowerCase() ?? ''}`, {
    min: spec.value?.least ?? 1,
    max: spec.value?.most ?? 1,
    default: 1,
    glide: 0,
  }),
)
const path = (param: string): string =>
  pathOf(every.value ? { lane: props.lane, param } : { lane: props.lane, index: chosen.value, param })

const ways = [
  {
    text: 'Gather',
    tip: 'Moves all values towards their mean',
    edit: (c: Column) => gatherColumn(c, 0.25),
  },
  {
    text: 'Spread',
    tip: 'Moves all values away from their mean',
    edit: (c: Column) => gatherColumn(c, -0.25),
  },
  {
    text: 'Lean up',
    tip: 'Raises the last and lowers the first',
    edit: (c: Column) => leanColumn(c, 0.1),
  },
  {
    text: 'Lean down',
    tip: 'Lowers the last and raises the first',
    edit: (c: Column) => leanColumn(c, -0.1),
  },
  {
    text: 'Even out',
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

const acts = computed(() => {
  const item = spec.value?.item ?? ''
  return [
    spec.value?.solo
      ? [
          {
            text: `Solo ${item} ${chosen.value + 1}`,
            tip: `Plays this ${item} alone. Does not affect renders.`,
            on:
              monitoring.soloItems?.node === props.owner &&
              monitoring.soloItems.chosen.includes(chosen.value),
            run: () => monitoring.toggleSoloItem(props.owner, chosen.value),
          },
        ]
      : [],
    [
      {
        text: `Remove ${item} ${chosen.value + 1}`,
        disabled: items.value.length <= (spec.value?.least ?? 1),
        run: remove,
      },
    ],
  ]
})
/** Actions for one parameter of all items. */
const columnActs = (param: string, name: string) => [
  ways.map((way) => ({
    text: way.text,
    tip: way.tip,
    run: () =>
      doc.edit(
        `${way.text}: ${name.toLowerCase()}`,
        way.edit({ owner: props.owner, lane: props.lane, param }),
      ),
  })),
]

function remove(): void {
  doc.edit(`Remove ${spec.value?.item}`, removeLaneItem(props.owner, props.lane, chosen.value))
  selection.shownItem = Math.max(0, chosen.value - 1)
}
</script>

<template>
  <section v-if="spec" class="mb-2 border-b border-line pb-1" :aria-label="spec.name">
    <div class="flex flex-wrap items-center gap-1 pt-1">
      <span class="water-name mr-1 text-large">{{ spec.name }}</span>
      <template v-if="!isTable">
        <template v-if="items.length <= FEW">
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
        </template>
        <ChoiceField
          v-else
          :label="`Which ${spec.item}`"
          hide-label
          :tip="`Chooses the ${spec.item} whose controls are shown`"
          :model-value="chosen"
          :options="itemNames"
          @update:model-value="
            (i: number) => {
              every = false
              selection.shownItem = i
            }
          "
        />
        <button
          class="small-button"
          :aria-pressed="every"
          title="Edits all of them by the same amount. A link to all can be fanned out."
          @click="every = !every"
        >
          All
        </button>
      </template>
      <span class="flex-1" />
      <button
        class="small-button"
        :aria-pressed="isTable"
        title="Shows a table of all values. Drag across it to draw."
        @click="isTable = !isTable"
      >
        Table
      </button>
      <ValueField
        class="w-12"
        :spec="count"
        :value="items.length"
        :title="`Number of ${spec.name.toLowerCase()}, from ${spec.least} to ${spec.most}`"
        @take="doc.edit(`Set number of ${spec.name.toLowerCase()}`, setLaneLength(owner, lane, $event))"
      />
      <button
        class="small-button"
        :disabled="items.length >= spec.most"
        :title="spec.spread ? `Adds a ${spec.item} in the widest gap` : `Adds a copy of this ${spec.item}`"
        @click="add"
      >
        Add
      </button>
      <ActionMenu
        small
        :label="`Actions for ${spec.name.toLowerCase()}`"
        :tip="`Solo or remove a ${spec.item}`"
        :groups="acts"
      />
    </div>
    <div v-if="spec.params.note?.unit === 'note'" class="flex items-center gap-1 py-1 text-small">
      <span class="text-second">Tune all {{ spec.name.toLowerCase() }} to</span>
      <ChoiceField v-model="root" label="Root of the chord" hide-label :options="roots" />
      <ChoiceField v-model="scale" label="Scale of the chord" hide-label :options="scaleNames" />
      <button class="small-button" title="Tunes them to a chord of thirds from the root" @click="tune">
        Tune
      </button>
    </div>
    <LaneTable v-if="isTable" :owner="owner" :lane="lane" />
    <div
      v-for="[k, s] in isTable ? [] : columns"
      :key="`${k}${every ? '*' : chosen}`"
      class="flex items-center gap-1"
    >
      <GaugeRow class="min-w-0 flex-1" :owner="owner" :param="path(k)" :name="s.name" />
      <ActionMenu
        v-if="every && !isStepped(s)"
        small
        :label="`Adjust ${s.name} of every ${spec.item}`"
        tip="Spread, gather or lean the values"
        :groups="columnActs(k, s.name)"
      />
    </div>
  </section>
</template>
