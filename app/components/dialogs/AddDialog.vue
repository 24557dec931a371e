<script setup lang="ts">
import { effectDefinition, effects } from '@oleaje/core/effects/index'
import type { EffectPreset } from '@oleaje/core/contract/effect'
import { effectFrom, newEffect, newId } from '@oleaje/core/project/new'
import { kindOf, nodeKinds } from '@oleaje/core/project/nodes/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { useSessionStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { type Manner, putNode } from '../../commands/put-node'
import { type Findable, rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '../ui/parts/combobox'
import { effectGroups } from './effect-groups'

/**
 * Adds an effect, a container or a preset: a list of all that fits the page, and beside it the highlighted
 * one with its description, its picture and its presets.
 */
const session = useSession()
const { shelf, screen } = session
const query = ref('')
const recent = useSessionStorage<string[]>('recent-effects', [])

interface Found extends Findable {
  readonly id: string
  readonly glyph: string
  readonly group: string
  readonly run: (manner: Manner) => void
  /** The effect whose presets are listed beside it. */
  readonly type?: string
  /** The preset that it already is. */
  readonly preset?: EffectPreset
}

/** Preset that the highlighted effect is added with. */
const chosen = ref<EffectPreset | null>(null)

function addEffect(type: string, manner: Manner, preset: EffectPreset | null): void {
  recent.value = [type, ...recent.value.filter((t) => t !== type)].slice(0, 5)
  const node = preset ? effectFrom(type, preset) : newEffect(type)
  putNode(session, node, effectDefinition(type)?.name ?? type, manner)
}
function addContainer(kind: string, manner: Manner): void {
  const node = nodeKinds[kind]?.around?.make([], newId()) as ChainNode | undefined
  if (node) putNode(session, node, kindOf(node).title(node).toLowerCase(), manner)
}

const all: readonly Found[] = [
  ...effects.map((e): Found => ({
    id: e.id,
    name: e.name,
    words: e.also ?? [],
    tip: e.tip,
    glyph: e.id,
    group: effectGroups[e.group],
    type: e.id,
    run: (m) => addEffect(e.id, m, chosen.value),
  })),
  ...Object.values(nodeKinds).flatMap(({ kind, around }): Found[] =>
    around?.empty
      ? [
          {
            id: kind,
            name: around.label.replace(' around', ''),
            words: around.also,
            tip: around.empty,
            glyph: kind,
            group: 'Containers',
            run: (m) => addContainer(kind, m),
          },
        ]
      : [],
  ),
]
const presets: readonly Found[] = effects.flatMap((e) =>
  (e.presets ?? []).map((p): Found => ({
    id: `${e.id}/${p.name}`,
    name: `${e.name}: ${p.name}`,
    words: [],
    tip: p.tip ?? `Preset of ${e.name}`,
    glyph: e.id,
    group: 'Presets',
    type: e.id,
    preset: p,
    run: (m) => addEffect(e.id, m, p),
  })),
)
const kept = computed(() =>
  shelf.items.value.map((k): Found => ({
    id: `kept ${k.id}`,
    name: k.preset.name,
    words: k.preset.tags,
    tip: 'On your shelf',
    glyph: 'kept',
    group: 'Kept',
    run: (m) => void shelf.take(k.preset, m),
  })),
)
const order = ['Recent', ...Object.values(effectGroups), 'Containers']
const found = computed<readonly Found[]>(() => {
  if (query.value.trim() !== '') return rankFound(query.value, [...all, ...kept.value, ...presets])
  const again = recent.value
    .flatMap((id) => all.find((f) => f.id === id) ?? [])
    .map((f) => ({ ...f, id: `recent ${f.id}`, group: 'Recent' }))
  return [...again, ...all].sort((a, b) => order.indexOf(a.group) - order.indexOf(b.group))
})
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
