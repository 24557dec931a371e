<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { removeLinks, setLinkMode, updateLinks } from '@oleaje/core/project/motion-edits'
import type { LinkChange } from '@oleaje/core/project/motion-edits'
import {
  type SortingState,
  createColumnHelper,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useVueTable,
} from '@tanstack/vue-table'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { parseValue } from '@oleaje/core/units/text'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { focusWhenShown } from '../../focus/focus-when-shown'
import { useFrame } from '../../composables/useFrame'
import { type LinkView, linkSpecs, readLinks, typeEnds } from '../../composables/useLink'
import { useScaling } from '../../composables/useScaling'
import { useSession } from '../../composables/useSession'

/**
 * Every link as a row: typed, sorted, filtered; what is done to one of several chosen rows is done to all of
 * them.
 */
const session = useSession()
const { doc, host, matters, monitoring, screen } = session
const query = ref('')
const sorting = ref<SortingState>([])
const chosen = shallowRef<readonly string[]>([])
const scaling = useScaling()
const scroller = ref<HTMLElement | null>(null)

// an edit of hundreds of links and the table of them are work for one frame each
const project = shallowRef(doc.project)
let nextFrame = 0
watch(
  () => doc.project,
  () => {
    cancelAnimationFrame(nextFrame)
    nextFrame = requestAnimationFrame(() => {
      project.value = doc.project
    })
  },
  { flush: 'sync' },
)
onBeforeUnmount(() => cancelAnimationFrame(nextFrame))
// rows are told apart by being new ones, so they are made again for figures that have come
const figures = computed(() =>
  matters.isCurrent.value && !matters.running.value ? matters.found.value : null,
)
const rows = computed(() => (project.value && figures.value !== undefined ? readLinks(project.value) : []))
const help = createColumnHelper<LinkView>()
const columns = [
  help.accessor((r) => `${r.letter} ${r.source} ${r.link.output}`, { id: 'source', header: 'Modulator' }),
  help.accessor((r) => `${r.owner} ${r.param} ${r.track}`, { id: 'target', header: 'Parameter' }),
  help.accessor('from', { header: 'Minimum', enableSorting: false }),
  help.accessor('to', { header: 'Maximum', enableSorting: false }),
  help.accessor((r) => r.link.mode, { id: 'mode', header: 'Range' }),
  help.accessor((r) => r.link.curve, { id: 'curve', header: 'Bend' }),
  help.accessor((r) => r.link.slewUp, { id: 'slew', header: 'Slew' }),
  help.accessor((r) => r.link.amount, { id: 'amount', header: 'Amount' }),
  help.accessor((r) => r.link.on, { id: 'on', header: 'On' }),
  help.accessor((r) => matters.found.value.get(r.link.id)?.distance.total ?? -1, {
    id: 'effect',
    header: 'Effect on sound',
  }),
]
const table = useVueTable({
  get data() {
    return rows.value
  },
  columns,
  getRowId: (r) => r.link.id,
  state: {
    get sorting() {
      return sorting.value
    },
    get globalFilter() {
      return query.value
    },
  },
  onSortingChange: (next) => {
    sorting.value = typeof next === 'function' ? next(sorting.value) : next
  },
  onGlobalFilterChange: (next: string) => {
    query.value = next
  },
  globalFilterFn: (row, _, text: string) => {
    const { letter, source, owner, param, track } = row.original
    const words = [letter, source, owner, param, track].join(' ').toLowerCase()
    return text
      .toLowerCase()
      .split(/\s+/)
      .every((w) => words.includes(w))
  },
  getCoreRowModel: getCoreRowModel(),
  getSortedRowModel: getSortedRowModel(),
  getFilteredRowModel: getFilteredRowModel(),
})
const shown = computed(() => table.getRowModel().rows.map((r) => r.original))
const virtual = useVirtualizer(
  computed(() => ({
    count: shown.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => 32,
    overscan: 2,
  })),
)
/**
 * How many rows are kept; each is used again for another link as they scroll by, which costs far less than
 * making one.
 */
let kept = 0
const cells = computed(() => {
  const items = virtual.value.getVirtualItems()
  kept = Math.max(kept, items.length)
  return items
    .flatMap((item) => {
      const row = shown.value[item.index]
      return row ? [{ row, top: item.start, slot: item.index % kept }] : []
    })
    .sort((x, y) => x.slot - y.slot)
})
const shownIds = computed(() => new Set(shown.value.map((r) => r.link.id)))
const marked = computed(() => new Set(chosen.value))
const active = computed(() => chosen.value.filter((id) => shownIds.value.has(id)))
/** The rows of an edit: all selected rows if the edited one is among them. */
const actOn = (id: string): string[] => (marked.value.has(id) && shownIds.value.has(id) ? active.value : [id])

function choose(id: string, on: boolean): void {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((x) => x !== id)
}

function change(id: string, label: string, what: LinkChange): void {
  doc.edit(label, updateLinks(actOn(id), what))
}

/** Reads what was typed of one link for all that are chosen with it. @throws ValueTextError */
function type({ link }: LinkView, what: 'from' | 'to' | 'curve' | 'slew' | 'amount', text: string): void {
  if (what === 'from' || what === 'to')
    typeEnds(session, [link.id, ...actOn(link.id).filter((x) => x !== link.id)], what, text)
  else if (what === 'curve')
    change(link.id, 'Bend links', { curve: parseValue(linkSpecs.curve, text, link.curve) })
  else if (what === 'amount')
    change(link.id, 'Set amounts', { amount: parseValue(linkSpecs.amount, text, link.amount) })
  else {
    const slew = parseValue(linkSpecs.slew, text, link.slewUp)
    change(link.id, 'Slew links', { slewUp: slew, slewDown: slew })
  }
}

/** Floating, fixed, and for notes pitch: one after the other. */
function mode(r: LinkView): void {
  const modes =
    r.link.output === 'pitch' ? (['floating', 'fixed', 'pitch'] as const) : (['floating', 'fixed'] as const)
  const next = modes[(modes.indexOf(r.link.mode as 'fixed') + 1) % modes.length] ?? 'floating'
  doc.edit('Change link mode', together(...actOn(r.link.id).map((x) => setLinkMode(x, next))))
}

// live bars: where the target stands and where the modulator is, without reactive state
useFrame(() => {
  for (const el of scroller.value?.querySelectorAll<HTMLElement>('[data-live]') ?? []) {
    const place = host.telemetry.get(el.dataset.live ?? '', NaN)
    el.style.transform = `translateX(${Number.isNaN(place) ? -100 : place * 68}px)`
  }
})

onMounted(async () => {
  const id = screen.shownLink
  if (!id) return
  screen.shownLink = null
  chosen.value = [id]
  await nextTick()
  const at = shown.value.findIndex((r) => r.link.id === id)
  if (at < 0) return
  virtual.value.scrollToIndex(at, { align: 'center' })
  await focusWhenShown(() => scroller.value?.querySelector<HTMLElement>(`[data-row="${id}"] input`))
})

const arrows = { asc: ' ↑', desc: ' ↓', none: '' } as const
const template =
  '28px minmax(96px, 1fr) minmax(150px, 1.4fr) 86px 86px 92px 58px 68px 64px 40px 58px 80px 58px'
</script>

<template>
  <section class="flex flex-col bg-sheet" aria-label="Links">
    <header class="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2">
      <h2 class="panel-title mr-2">Links</h2>
      <input
        v-model="query"
        class="field w-55"
        type="search"
        placeholder="Search modulators, effects and tracks"
        aria-label="Filter links"
      />
      <span class="text-small text-second" role="status">
        {{ shown.length }} of {{ rows.length }}{{ active.length ? `, ${active.length} selected` : '' }}
      </span>
      <span class="flex-1" />
      <button
        class="plain-button"
        @click="chosen = active.length === shown.length ? [] : shown.map((r) => r.link.id)"
      >
        {{ active.length && active.length === shown.length ? 'Select none' : 'Select all shown' }}
      </button>
      <label class="text-small"
        >amounts
        <ValueField
          class="w-17"
          :spec="scaling.spec"
          :value="scaling.factor.value"
          @take="scaling.factor.value = $event"
          @refused="scaling.refused.value = $event"
      /></label>
      <button
        class="plain-button"
        :disabled="!active.length"
        title="Scales the amounts of the selected links"
        @click="scaling.scale(active)"
      >
        Scale
      </button>
      <button
        class="plain-button"
        :disabled="!active.length"
        @click="doc.edit('Turn links off', updateLinks(active, { on: false }))"
      >
        Off
      </button>
      <button
        class="plain-button"
        :disabled="!active.length"
        @click="doc.edit('Turn links on', updateLinks(active, { on: true }))"
      >
        On
      </button>
      <button
        class="plain-button"
        :disabled="!active.length"
        @click="
          () => {
            doc.edit(`Remove ${active.length} links`, removeLinks(active))
            chosen = []
          }
        "
      >
        Remove
      </button>
    </header>
    <div
      role="table"
      aria-label="All links"
      :aria-rowcount="shown.length"
      class="flex min-h-0 flex-1 flex-col px-4 text-small"
    >
      <div
        role="row"
        class="grid items-end gap-2 border-b border-ink py-1 text-second"
        :style="{ gridTemplateColumns: template }"
      >
        <span role="columnheader"><span class="sr-only">Selected</span></span>
        <span
          v-for="h in table.getFlatHeaders()"
          :key="h.id"
          role="columnheader"
          :aria-sort="
            h.column.getIsSorted() === 'asc'
              ? 'ascending'
              : h.column.getIsSorted() === 'desc'
                ? 'descending'
                : 'none'
          "
        >
          <button
            v-if="h.column.getCanSort()"
            class="underline decoration-dotted"
            :title="`Sorts by ${h.column.columnDef.header}`"
            @click="h.column.toggleSorting()"
          >
            {{ h.column.columnDef.header }}{{ arrows[h.column.getIsSorted() || 'none'] }}
          </button>
          <template v-else>{{ h.column.columnDef.header }}</template>
        </span>
        <span role="columnheader">now</span
        ><span role="columnheader"><span class="sr-only">go to gauge</span></span>
      </div>
      <p v-if="!rows.length" class="p-4">
        <span class="water-name text-heading"> No links yet.</span>
        On the Bench, press M on a gauge, or click a modulator’s badge and drag on a gauge from the minimum to
        the maximum.
      </p>
      <div
        ref="scroller"
        class="min-h-0 flex-1 overflow-y-auto bg-sheet"
        role="rowgroup"
        tabindex="0"
        aria-label="Rows"
      >
        <div class="relative" :style="{ height: `${virtual.getTotalSize()}px` }">
          <LinkRow
            v-for="{ row, top, slot } in cells"
            :key="slot"
            :row="row"
            :top="top"
            :chosen="marked.has(row.link.id)"
            :late="monitoring.feedbackEdges.includes(row.link.id)"
            :columns="template"
            :type="(what, text) => type(row, what, text)"
            @choose="choose(row.link.id, $event)"
            @mode="mode(row)"
            @switch="change(row.link.id, 'Turn links on or off', { on: !row.link.on })"
          />
        </div>
      </div>
    </div>
  </section>
</template>
