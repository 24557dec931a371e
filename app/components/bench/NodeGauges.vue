<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { addBranch, setSidechain } from '@oleaje/core/project/chain-edits'
import { newBranch } from '@oleaje/core/project/new'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { kindOf } from '@oleaje/core/project/nodes/index'
import type { ChainNode, Split } from '@oleaje/core/project/schema'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { pairGauges } from '../../composables/time-pair'
import { earOf, earText, earsFor } from '../../composables/ears'
import { useSession } from '../../composables/useSession'
import GaugeRow from '../ui/GaugeRow.vue'
import MiniGauge from '../ui/MiniGauge.vue'

/** All gauges of the selected effect or container: of itself, its lanes, its branches. */
const props = defineProps<{ node: ChainNode }>()
const { doc, selection, preferences } = useSession()
const effect = computed(() => (props.node.kind === 'effect' ? props.node : undefined))
const definition = computed(() => (effect.value ? effectDefinition(effect.value.type) : undefined))
const root = ref<HTMLElement | null>(null)
const { width } = useElementSize(root)
/** Width in px of a gauge with its name beside it; where two have no room, names stand above. */
const isTwoColumns = computed(() => width.value < 2 * 330)
const hand = computed(() =>
  doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === selection.inHand),
)
const isMoved = (param: string): boolean =>
  doc.project?.links.some(
    (l) => l.target.owner === props.node.id && l.target.param === param && !l.target.lane,
  ) ?? false

interface Group {
  readonly name: string
  readonly gauges: ReturnType<typeof pairGauges>
}
/** Its parameters in groups, without those that have no effect as it is set up. */
const groups = computed<readonly Group[]>(() => {
  const { node } = props
  const kind = kindOf(node)
  const own = definition.value
  const specs = kind.params(node)
  const value = (p: string): number => node.params[p] ?? specs?.[p]?.default ?? 0
  const named = own
    ? (own.groups ?? [{ name: '', gauges: Object.keys(own.params) }])
    : [{ name: '', gauges: kind.gauges?.(node) ?? Object.keys(specs ?? {}) }]
  const paired = pairGauges(
    specs,
    named.flatMap((g) => g.gauges),
    isMoved,
    value,
    own?.pair,
  ).filter((g) => !!g.pair || isMoved(g.param) || (own?.applies?.(g.param, value) ?? true))
  const found = named.map(({ name, gauges }) => ({
    name,
    gauges: paired.filter((g) => gauges.includes(g.param)),
  }))
  if (!own) return found
  const common = Object.keys(commonParams)
    .sort((a) => (a === 'on' ? 1 : -1))
    .map((param) => ({ param }))
  const last = found.at(-1)
  return last && (last.name === 'Output' || last.name === '')
    ? [...found.slice(0, -1), { ...last, gauges: [...last.gauges, ...common] }]
    : [...found, { name: 'Output', gauges: common }]
})
const count = computed(() => groups.value.reduce((n, g) => n + g.gauges.length, 0))
/** More gauges than this can be searched. */
const MANY = 16
const sought = ref('')
const isAll = computed({
  get: () => !definition.value?.main || (preferences.allGauges[definition.value.id] ?? false),
  set: (all) => {
    if (definition.value) preferences.allGauges = { ...preferences.allGauges, [definition.value.id]: all }
    sought.value = ''
  },
})
/** The groups as they are shown: all, those that are sought, or the main ones and what something moves. */
const shown = computed(() => {
  const main: readonly string[] = definition.value?.main ?? []
  const find = sought.value.trim().toLowerCase()
  const fits = (g: Group, param: string): boolean => {
    if (isAll.value && !find) return true
    if (isAll.value)
      return `${g.name} ${definition.value?.params[param]?.name ?? param}`.toLowerCase().includes(find)
    return main.includes(param) || param === 'wet' || isMoved(param)
  }
  const found = groups.value
    .map((g) => ({ ...g, gauges: g.gauges.filter(({ param }) => fits(g, param)) }))
    .filter((g) => g.gauges.length)
  // few gauges need no headings, and leave no gaps as one list
  const few = definition.value?.main && !isAll.value
  return few ? [{ name: '', gauges: found.flatMap((g) => g.gauges) }] : found
})
const add = (split: Split): void =>
  doc.edit(
    'Add branch',
    addBranch(split.id, newBranch(`branch ${split.branches.length + 1}`, split.mode === 'copies' ? -6 : 0)),
  )

const lanes = computed(() => Object.entries(definition.value?.lanes ?? {}))

const sides = computed(() => [
  { value: '', text: 'own input' },
  ...(doc.project ? earsFor(doc.project, selection.track?.id, props.node.id) : []),
])
const setSide = (value: string): void => doc.edit('Set sidechain', setSidechain(props.node.id, earOf(value)))
const side = computed(() => earText(effect.value?.sidechain))
</script>

<template>
  <div ref="root" class="min-h-0 overflow-x-hidden overflow-y-auto px-3 py-1">
    <div class="mb-1 flex min-h-6 items-center gap-2 text-small text-second">
      <p v-if="hand" class="min-w-0 flex-1">
        <Badge :letter="hand.letter" :hue="hand.hue" small /> Linking <b>{{ hand.name }}</b>: drag on a gauge
        from the minimum to the maximum. Esc cancels.
      </p>
      <input
        v-else-if="definition?.main && isAll && count > MANY"
        v-model="sought"
        class="field min-w-0 flex-1"
        type="search"
        placeholder="Search controls"
        aria-label="Search controls"
        @keydown.stop
      />
      <p v-else class="min-w-0 flex-1 truncate">Drag to set · Shift for fine · Enter to type · M to link</p>
      <button
        v-if="definition?.main"
        class="small-button"
        :aria-expanded="isAll"
        title="Shows all controls, or the main ones"
        @click="isAll = !isAll"
      >
        {{ isAll ? 'Main controls' : `All ${count} controls` }}
      </button>
    </div>
    <template v-for="[lane, spec] in lanes" :key="`${node.id}${lane}`">
      <LaneEditor v-if="!spec.asTable" :owner="node.id" :lane="lane" />
    </template>
    <div v-for="group in shown" :key="group.name" role="group" :aria-label="group.name || 'Controls'">
      <h3 v-if="group.name && shown.length > 1" class="water-name pt-1 text-name text-second">
        {{ group.name }}
      </h3>
      <div class="gauges grid gap-x-4">
        <component
          :is="isTwoColumns ? MiniGauge : GaugeRow"
          v-for="g in group.gauges"
          :key="`${node.id}.${g.param}`"
          :owner="node.id"
          :param="g.param"
          :pair="g.pair"
        />
      </div>
    </div>
    <template v-for="[lane, spec] in lanes" :key="`${node.id}${lane}`">
      <LaneEditor
        v-if="spec.asTable === 'narrow'"
        class="mb-0! border-b-0! pb-0!"
        :owner="node.id"
        :lane="lane"
      />
    </template>
    <p v-if="!shown.length" class="text-second">No control matches “{{ sought }}”.</p>
    <div v-if="definition?.sidechain" class="py-2">
      <ChoiceField
        label="Sidechain"
        tip="Chooses the signal that controls this effect"
        :model-value="side"
        :options="sides"
        @update:model-value="setSide"
      />
    </div>
    <template v-if="node.kind === 'split'">
      <BranchList :split="node" />
      <button
        v-if="node.branches.length < 8"
        class="plain-button mt-2"
        title="Adds a branch at the end"
        @click="add(node)"
      >
        Add branch
      </button>
    </template>
  </div>
</template>

<style scoped>
.gauges {
  grid-template-columns: repeat(auto-fill, minmax(max(180px, 40%), 1fr));
}
</style>
