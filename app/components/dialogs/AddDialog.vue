<script setup lang="ts">
import type { EffectPreset } from '@oleaje/core/contract/effect'
import { effectDefinition } from '@oleaje/core/effects/index'
import { effectFrom, newEffect } from '@oleaje/core/project/new'
import { computed, ref, watch } from 'vue'
import type { Manner } from '../../commands/put-node'
import { rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '../ui/parts/combobox'
import { type Found, addableGroups, byGroup, useAddable } from './use-addable'

/**
 * Adds an effect, a container or a preset: a list of all that fits the page, and beside it the highlighted
 * one with its description, its picture and its presets.
 */
const { screen } = useSession()
const query = ref('')
/** Preset that the highlighted effect is added with. */
const chosen = ref<EffectPreset | null>(null)
const { parts, presets, kept, again } = useAddable(() => chosen.value)
const found = computed<readonly Found[]>(() =>
  query.value.trim() === ''
    ? byGroup([...again.value, ...parts], addableGroups)
    : rankFound(query.value, [...parts, ...kept.value, ...presets]),
)
const isList = computed(() => query.value.trim() === '')
const headOf = (i: number): string =>
  isList.value && found.value[i]?.group !== found.value[i - 1]?.group ? (found.value[i]?.group ?? '') : ''

/** The option that the package has highlighted; the best one until the keys have walked. */
const highlighted = ref<Found | null>(null)
function highlight(f: Found | null): void {
  highlighted.value = f
}
const beside = computed(() => highlighted.value ?? found.value[0] ?? null)
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
let manner: Manner = 'after'
function readManner(e: KeyboardEvent | MouseEvent): void {
  manner = e.shiftKey ? 'around' : e.altKey ? 'instead' : 'after'
}
let done = false
function choose(f: Found | null): void {
  // the package and the field both hear Enter
  if (!f || done) return
  done = true
  screen.dialog = ''
  f.run(manner)
  screen.addSpot = null
}
function press(e: KeyboardEvent): void {
  if (e.key === 'Enter') {
    e.preventDefault()
    choose(beside.value)
  } else if (e.altKey && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
    e.preventDefault()
    e.stopPropagation()
    const list = [null, ...besidePresets.value]
    const by = e.key === 'ArrowDown' ? 1 : list.length - 1
    chosen.value = list[(list.indexOf(chosen.value) + by) % list.length] ?? null
  }
}
function close(): void {
  screen.dialog = ''
  screen.addSpot = null
}
</script>

<template>
  <BaseDialog title="Add an effect" size="w-245" @close="close">
    <Combobox
      as="div"
      v-slot="{ activeOption }"
      :model-value="null"
      @update:model-value="(f: Found | null) => choose(f)"
      @keydown.capture="readManner"
      @click.capture="readManner"
    >
      <ComboboxInput
        class="field w-full"
        placeholder="Search effects and presets"
        aria-label="Search"
        autocomplete="off"
        @change="query = $event.target.value"
        @keydown.capture="press"
      />
      <p class="mt-1 text-tiny text-second">
        Enter inserts after the selection, Shift+Enter splits beside it, Alt+Enter replaces it. Alt+↑ and
        Alt+↓ choose a preset.
      </p>
      <ActiveOption :option="activeOption" @change="highlight" />
      <div class="mt-2 grid grid-cols-[1fr_280px] gap-4">
        <ComboboxOptions static class="max-h-[62vh] overflow-y-auto" :class="isList ? 'columns-3 gap-3' : ''">
          <template v-for="(f, i) in found" :key="f.id">
            <li v-if="headOf(i)" class="water-name break-after-avoid pt-1 text-name" role="presentation">
              {{ headOf(i) }}
            </li>
            <ComboboxOption v-slot="{ active }" :value="f">
              <div
                class="flex cursor-pointer items-center gap-2 px-1 py-0.5"
                :class="active || (!activeOption && f === beside) ? 'bg-shoal' : ''"
              >
                <Glyph :of="f.glyph" class="shrink-0" />
                <b class="truncate">{{ f.name }}</b>
                <span v-if="!isList" class="ml-auto max-w-[55%] truncate text-right text-small text-second">
                  {{ f.tip }}
                </span>
              </div>
            </ComboboxOption>
          </template>
          <li v-if="!found.length" class="px-2 py-1 text-second">No results.</li>
        </ComboboxOptions>
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
                    () => {
                      chosen = p
                      choose(beside)
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
            @click="choose(beside)"
          >
            Add{{ chosen ? ` with “${chosen.name}”` : '' }}
          </button>
        </aside>
      </div>
    </Combobox>
  </BaseDialog>
</template>
