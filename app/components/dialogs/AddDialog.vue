<script setup lang="ts">
import type { EffectPreset } from '@oleaje/core/contract/effect'
import { effectDefinition } from '@oleaje/core/effects/index'
import { effectFrom, newEffect } from '@oleaje/core/project/new'
import { computed, shallowRef, watch } from 'vue'
import type { Manner } from '../../commands/put-node'
import { rankFound } from '../../composables/find-rank'
import { useSearchList } from '../../composables/useSearchList'
import { useSession } from '../../composables/useSession'
import { type Found, addableGroups, byGroup, useAddable } from './use-addable'

/**
 * Adds an effect, a container or a preset: a list of all that fits the page, and beside it the highlighted
 * one with its description, its picture and its presets.
 */
const { screen } = useSession()
/** Preset that the highlighted effect is added with. */
const chosen = shallowRef<EffectPreset | null>(null)
const { parts, presets, kept, again } = useAddable(() => chosen.value)
const results = useSearchList<Found>(
  (query) =>
    query.trim() === ''
      ? byGroup([...again.value, ...parts], addableGroups)
      : rankFound(query, [...parts, ...kept.value, ...presets]),
  { choose },
)
const { query, now: beside } = results
const besidePresets = computed(() =>
  beside.value?.type && !beside.value.preset ? (effectDefinition(beside.value.type)?.presets ?? []) : [],
)
watch(beside, () => {
  chosen.value = null
})
const picturedNode = computed(() => {
  const f = beside.value
  if (!f?.type) return null
  const preset = f.preset ?? chosen.value
  return preset ? effectFrom(f.type, preset) : newEffect(f.type)
})

/** How it is put into the chain, by the keys that are held with Enter or the click. */
const mannerOf = (e: KeyboardEvent | MouseEvent): Manner =>
  e.shiftKey ? 'around' : e.altKey ? 'instead' : 'after'
function choose(f: Found, e: KeyboardEvent | MouseEvent): void {
  screen.dialog = ''
  f.run(mannerOf(e))
  screen.addSpot = null
}
function choosePreset(e: KeyboardEvent): void {
  if (!e.altKey || (e.key !== 'ArrowDown' && e.key !== 'ArrowUp')) return
  e.preventDefault()
  const list = [null, ...besidePresets.value]
  const by = e.key === 'ArrowDown' ? 1 : list.length - 1
  chosen.value = list[(list.indexOf(chosen.value) + by) % list.length] ?? null
}
function close(): void {
  screen.dialog = ''
  screen.addSpot = null
}
</script>

<template>
  <BaseDialog title="Add an effect" size="w-245" @close="close">
    <input
      v-model="query"
      v-bind="results.field.value"
      class="field w-full"
      placeholder="Search effects and presets"
      aria-label="Search"
      @keydown="choosePreset"
    />
    <p class="mt-1 text-tiny text-second">
      Enter inserts after the selection, Shift+Enter splits beside it, Alt+Enter replaces it. Alt+↑ and Alt+↓
      choose a preset.
    </p>
    <div class="mt-2 grid grid-cols-[1fr_280px] gap-4">
      <FoundList class="max-h-[62vh]" :results="results" columns="columns-3 gap-3" @choose="choose" />
      <aside v-if="beside" class="border-l border-line pl-3" aria-live="polite">
        <h3 class="text-heading font-semibold">{{ beside.name }}</h3>
        <p class="text-small text-second">{{ beside.tip }}</p>
        <PresetPicture v-if="picturedNode" class="mt-2" :node="picturedNode" :name="beside.name" />
        <template v-if="besidePresets.length">
          <h4 class="water-name mt-2 text-name">Presets</h4>
          <ul>
            <li v-for="p in besidePresets" :key="p.name">
              <button
                class="w-full truncate px-1 text-left"
                :class="chosen === p ? 'bg-water font-semibold' : ''"
                :aria-pressed="chosen === p"
                :title="p.tip ?? 'Selects this preset; double-click adds it'"
                @click="chosen = chosen === p ? null : p"
                @dblclick="
                  (e) => {
                    chosen = p
                    if (beside) choose(beside, e)
                  }
                "
              >
                {{ p.name }}
                <span class="text-small font-normal text-second">{{ p.tip }}</span>
              </button>
            </li>
          </ul>
        </template>
        <button
          class="plain-button mt-2"
          title="Inserts it after the selection (Enter)"
          @click="choose(beside, $event)"
        >
          Add{{ chosen ? ` with “${chosen.name}”` : '' }}
        </button>
      </aside>
    </div>
  </BaseDialog>
</template>
