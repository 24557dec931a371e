<script setup lang="ts">
import { effects } from '@oleaje/core/effects/index'
import { materials } from '@oleaje/core/render/phrase'
import { computed } from 'vue'
import { RadioGroup, RadioGroupLabel, RadioGroupOption } from '../ui/parts/radio-group'
import { useSession } from '../../composables/useSession'
import { type ShelfFilter, noFilter } from './shelf-filter'

/** What the list is narrowed to: whose presets, their tags, the material they suit, an effect inside. */
const filter = defineModel<ShelfFilter>({ required: true })
const { entries } = useSession()

const scopes = [
  { value: 'all', text: 'All' },
  { value: 'shipped', text: 'Shipped' },
  { value: 'mine', text: 'Mine' },
  { value: 'favourites', text: 'Favourites' },
  { value: 'recent', text: 'Recent' },
] as const
const shippedTags = ['colour', 'dirt', 'time', 'movement', 'rhythm', 'space', 'voice']
/** Own tags come after those that ship; kinds of effects, which old presets are tagged with, are left out. */
const tags = computed(() => {
  const types = new Set(effects.map((e) => e.id))
  const own = entries.all.value
    .filter((e) => e.kept)
    .flatMap((e) => e.preset.tags)
    .filter((t) => !types.has(t) && !shippedTags.includes(t))
  return [...shippedTags, ...[...new Set(own)].slice(0, 12)]
})
const inside = [
  { value: '', text: 'any' },
  ...[...effects].sort((a, b) => a.name.localeCompare(b.name)).map((e) => ({ value: e.id, text: e.name })),
]
const changed = computed(() => JSON.stringify(filter.value) !== JSON.stringify(noFilter))

function toggle(key: 'tags' | 'materials', value: string): void {
  const list = filter.value[key]
  filter.value = {
    ...filter.value,
    [key]: list.includes(value) ? list.filter((x) => x !== value) : [...list, value],
  }
}
</script>

<template>
  <aside aria-label="Filters">
    <RadioGroup
      :model-value="filter.scope"
      @update:model-value="(scope: ShelfFilter['scope']) => (filter = { ...filter, scope })"
    >
      <RadioGroupLabel class="water-name block text-name">Show</RadioGroupLabel>
      <RadioGroupOption
        v-for="s in scopes"
        :key="s.value"
        v-slot="{ checked }"
        :value="s.value"
        as="template"
      >
        <button class="scope" :class="checked ? 'bg-water font-semibold' : ''">{{ s.text }}</button>
      </RadioGroupOption>
    </RadioGroup>
    <template
      v-for="group in [
        { key: 'tags', text: 'Tags', list: tags },
        { key: 'materials', text: 'Suits', list: materials },
      ] as const"
      :key="group.key"
    >
      <h3 class="water-name mt-3 text-name">{{ group.text }}</h3>
      <div class="flex flex-wrap gap-1">
        <button
          v-for="t in group.list"
          :key="t"
          class="small-button"
          :aria-pressed="filter[group.key].includes(t)"
          :title="`Shows presets with “${t}” only`"
          @click="toggle(group.key, t)"
        >
          {{ t }}
        </button>
      </div>
    </template>
    <h3 class="water-name mt-3 text-name">Effect inside</h3>
    <ChoiceField
      :model-value="filter.effect"
      label="Effect inside"
      hide-label
      :options="inside"
      @update:model-value="(effect: string) => (filter = { ...filter, effect })"
    />
    <button
      class="small-button mt-3 block"
      :disabled="!changed"
      title="Shows all presets"
      @click="filter = noFilter"
    >
      Clear filters
    </button>
  </aside>
</template>

<style scoped>
.scope {
  display: block;
  width: 100%;
  padding: 1px 6px;
  text-align: left;
  border-radius: 4px;
}
</style>
