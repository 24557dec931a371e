<script setup lang="ts">
import { fileOpen } from 'browser-fs-access'
import { nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { rankFound } from '../../composables/find-rank'
import { useSearchList } from '../../composables/useSearchList'
import { useSession } from '../../composables/useSession'
import { type ShelfEntry, effectsIn } from '../../services/shelf-entries'
import type { TakingWay } from '../../services/shelf'
import { type ShelfFilter, noFilter } from './shelf-filter'

/**
 * The Shelf: presets that ship and that were kept here. What is highlighted is previewed on the selected
 * track; nothing is written until it is taken.
 */
const session = useSession()
const { audition, entries, library, packs, preferences, selection, shelf } = session
const filter = ref<ShelfFilter>(noFilter)
const search = ref<HTMLInputElement | null>(null)

const inFilter = (e: ShelfEntry): boolean => {
  const { scope, tags, materials, effect } = filter.value
  const isIn = {
    all: true,
    shipped: e.shipped !== null,
    mine: e.kept !== null,
    favourites: entries.favourites.value.includes(e.id),
    recent: entries.recent.value.includes(e.id),
  }[scope]
  return (
    isIn &&
    tags.every((t) => e.preset.tags.includes(t)) &&
    materials.every((m) => e.preset.materials.includes(m)) &&
    (!effect || effectsIn(e.preset).includes(effect))
  )
}
const results = useSearchList<ShelfEntry>(
  (query) => {
    const found = rankFound(
      query,
      entries.all.value.filter(inFilter).map((entry) => ({
        entry,
        name: entry.preset.name,
        words: entry.words,
        tip: entry.preset.about,
      })),
    ).map((f) => f.entry)
    return filter.value.scope === 'recent'
      ? [...found].sort((a, b) => entries.recent.value.indexOf(a.id) - entries.recent.value.indexOf(b.id))
      : found
  },
  {
    choose: (entry, e) => void take(wayOf(e), entry),
    walk: (entry) => {
      if (preferences.previews) preview(entry)
    },
  },
)
const { query, found: shown, now } = results

onMounted(() => {
  void shelf.open()
  void entries.open()
  void nextTick(() => search.value?.focus())
})
onBeforeUnmount(() => audition.end())
watch([query, filter], () => audition.end())

function preview(entry: ShelfEntry): void {
  void audition.begin(entry.id, entry.preset)
}

let resting: ReturnType<typeof setTimeout> | undefined
/** Time in ms for which the pointer must rest on a row before it is previewed. */
const REST = 220
function rest(i: number): void {
  clearTimeout(resting)
  if (preferences.previewsHovered) resting = setTimeout(() => results.highlight(i), REST)
}
onBeforeUnmount(() => clearTimeout(resting))

async function take(way: TakingWay, entry = now.value): Promise<void> {
  if (!entry) return
  audition.end()
  entries.noteTaken(entry.id)
  shelf.take(entry.preset, way)
  await session.views.go('/')
}
function wayOf(e: KeyboardEvent | MouseEvent): TakingWay {
  if (now.value?.preset.kind !== 'chain' || e.ctrlKey || e.metaKey) return 'after'
  return e.shiftKey ? 'around' : e.altKey ? 'new track' : 'chain'
}

/** Escape ends the preview, then empties the search, then goes back to the Bench. */
function leave(): void {
  if (audition.heard.value) audition.end()
  else if (query.value) query.value = ''
  else void session.views.go('/')
}

async function importFiles(): Promise<void> {
  const files = await fileOpen({
    extensions: ['.json', '.zip'],
    description: 'Oleaje presets and packs',
    multiple: true,
  }).catch(() => [])
  await library.takeFiles(files)
}
</script>

<template>
  <section class="grid grid-cols-[190px_minmax(0,1fr)_350px]" aria-label="Shelf">
    <ShelfFilters v-model="filter" class="overflow-y-auto border-r border-line p-3" />
    <div class="flex min-h-0 flex-col">
      <div class="flex items-center gap-2 border-b border-line px-3 py-2">
        <input
          ref="search"
          v-model="query"
          class="field min-w-0 flex-1"
          type="search"
          v-bind="results.field.value"
          placeholder="Search names, tags, effects and macros"
          aria-label="Search the shelf"
          @keydown.esc.prevent.stop="leave"
        />
        <button
          class="plain-button"
          :aria-pressed="preferences.previews"
          title="Previews what the arrow keys highlight on the selected track"
          @click="preferences.previews = !preferences.previews"
        >
          Preview
        </button>
        <button
          class="plain-button"
          :aria-pressed="preferences.previewsHovered"
          title="Previews what the pointer rests on"
          @click="preferences.previewsHovered = !preferences.previewsHovered"
        >
          On hover
        </button>
        <button class="plain-button" title="Imports presets and packs" @click="importFiles">Import…</button>
        <button
          class="plain-button"
          :disabled="!shown.length"
          title="Saves all presets of this list to one zip file"
          @click="
            packs.save(
              'Oleaje pack',
              shown.map((e) => e.preset),
            )
          "
        >
          Export pack
        </button>
      </div>
      <p class="truncate border-b border-line px-3 py-1 text-tiny text-second">
        ↑ ↓ preview on {{ selection.track?.name ?? 'the selected track' }} · Enter replaces its chain · with
        Shift splits, with Ctrl inserts, with Alt adds a track · Esc goes back
      </p>
      <p v-if="entries.trouble.value" class="px-3 py-1 text-magenta">{{ entries.trouble.value }}</p>
      <ul v-bind="results.list" class="min-h-0 flex-1 overflow-y-auto" aria-label="Presets">
        <ShelfRow
          v-for="(e, i) in shown"
          v-bind="results.option(i)"
          :key="e.id"
          :entry="e"
          :highlighted="e === now"
          :heard="audition.heard.value === e.id"
          :favourite="entries.favourites.value.includes(e.id)"
          @click="results.highlight(i)"
          @dblclick="take('chain', e)"
          @pointerenter="rest(i)"
        />
      </ul>
      <p v-if="!shown.length" class="p-4 text-second">
        No preset matches. Change the search or the filters; on the Bench, Shift+F keeps the selection or the
        whole chain here.
      </p>
    </div>
    <ShelfDetails
      v-if="now"
      :key="now.id"
      class="overflow-y-auto border-l border-line p-3"
      :entry="now"
      :heard="audition.heard.value === now.id"
      @take="take($event)"
      @preview="audition.heard.value === now.id ? audition.end() : now && preview(now)"
    />
  </section>
</template>
