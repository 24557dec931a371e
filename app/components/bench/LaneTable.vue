<script setup lang="ts">
import { Lock } from '@lucide/vue'
import { together } from '@oleaje/core/project/edit'
import {
  copyColumn,
  diceColumn,
  evenColumn,
  gatherColumn,
  leanColumn,
  reverseColumn,
  rotateColumn,
} from '@oleaje/core/project/lane-edits'
import { addLink, updateLink } from '@oleaje/core/project/motion-edits'
import { newId } from '@oleaje/core/project/new'
import { pathOf } from '@oleaje/core/project/param-path'
import { itemsOf, lanesOf, shownColumns } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { findOwner } from '@oleaje/core/project/walk'
import { isStepped } from '@oleaje/core/units/parameter'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { formatValue, parseValue } from '@oleaje/core/units/text'
import { computed, nextTick, ref } from 'vue'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/**
 * A lane as a table: a row for each item, a column for each parameter. A stroke across cells draws their
 * values; heads dice, lock and link a column.
 */
const props = defineProps<{ owner: string; lane: string }>()
const { doc, selection, screen } = useSession()
const hand = useGesture()
const table = ref<HTMLElement | null>(null)
const found = computed(() => (doc.project ? findOwner(doc.project, props.owner) : undefined))
const spec = computed(() => (found.value ? lanesOf(found.value)[props.lane] : undefined))
const items = computed(() => (found.value ? itemsOf(found.value, props.lane) : []))
const columns = computed(() => shownColumns(found.value, props.lane))
const key = computed(() => `${props.owner}.${props.lane}`)
const locked = computed(() => screen.lockedRows[key.value] ?? [])
const lockedColumns = computed(() => screen.lockedColumns[key.value] ?? [])

const valueOf = (row: number, param: string): number =>
  items.value[row]?.[param] ?? spec.value?.params[param]?.default ?? 0
const placeOf = (row: number, param: string): number => {
  const s = spec.value?.params[param]
  return s ? toNormalized(s, valueOf(row, param)) : 0
}
const textOf = (row: number, param: string): string => {
  const s = spec.value?.params[param]
  return s ? formatValue(s, valueOf(row, param)) : ''
}
const linked = (param: string): boolean =>
  (doc.project?.links ?? []).some(
    (l) => l.target.owner === props.owner && l.target.lane === props.lane && l.target.param === param,
  )
const set = (row: number, param: string, place: number) => {
  const s = spec.value?.params[param]
  return setParam(
    props.owner,
    pathOf({ lane: props.lane, index: row, param }),
    s ? fromNormalized(s, Math.min(1, Math.max(0, place))) : 0,
  )
}

/**
 * A stroke: each cell that the pointer passes takes the place at which it passes. Rows that are jumped over
 * take what lies between.
 */
function stroke(e: PointerEvent, param: string): void {
  const s = spec.value?.params[param]
  if (!s || e.button !== 0) return
  const cell = e.currentTarget as HTMLElement
  const body = cell.closest('tbody')
  if (!body) return
  const cells = [...body.querySelectorAll<HTMLElement>(`[data-column="${param}"]`)]
  const toggles = s.unit === 'toggle' ? 1 - valueOf(Number(cell.dataset.row), param) : 0
  let last: { row: number; place: number } | null = null
  const move = (m: PointerEvent): void => {
    const row = cells.findIndex((c) => {
      const b = c.getBoundingClientRect()
      return m.clientY < b.bottom
    })
    const at = row < 0 ? cells.length - 1 : row
    const box = cells[at]?.getBoundingClientRect()
    if (!box) return
    const place = s.unit === 'toggle' ? toggles : (m.clientX - box.left - 2) / (box.width - 4)
    const from = last ?? { row: at, place }
    const edits = []
    const steps = Math.abs(at - from.row)
    for (let k = steps === 0 ? 0 : 1; k <= steps; k++) {
      const r = from.row + Math.sign(at - from.row) * k
      edits.push(set(r, param, steps === 0 ? place : from.place + ((place - from.place) * k) / steps))
    }
    hand.edit(`Draw ${s.name.toLowerCase()}`, together(...edits))
    last = { row: at, place }
  }
  hand.drag(e, `Draw ${s.name.toLowerCase()}`, move)
  move(e)
  cell.focus()
}

/** Cell that is being typed into. */
const typing = ref<{ row: number; param: string } | null>(null)
async function type(row: number, param: string): Promise<void> {
  typing.value = { row, param }
  await nextTick()
  table.value?.querySelector<HTMLInputElement>('input')?.focus()
}
function take(row: number, param: string, text: string): void {
  const s = spec.value?.params[param]
  if (s)
    doc.edit(
      `Set ${s.name.toLowerCase()}`,
      setParam(
        props.owner,
        pathOf({ lane: props.lane, index: row, param }),
        parseValue(s, text, valueOf(row, param)),
      ),
    )
}
async function typed(row: number, param: string): Promise<void> {
  typing.value = null
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-column="${param}"][data-row="${row}"]`)?.focus()
}

/** Arrows: up and down go along the column, left and right change the value. */
function press(e: KeyboardEvent, row: number, param: string): void {
  const s = spec.value?.params[param]
  if (!s) return
  const go = (r: number, by = 0): void => {
    const names = columns.value.map(([k]) => k)
    const next = names[(names.indexOf(param) + by + names.length) % names.length] ?? param
    table.value
      ?.querySelector<HTMLElement>(
        `[data-column="${next}"][data-row="${Math.min(items.value.length - 1, Math.max(0, r))}"]`,
      )
      ?.focus()
  }
  const step = isStepped(s) ? 1 / Math.max(1, s.max - s.min) : e.shiftKey ? 0.01 : 0.05
  const change = (place: number): void => doc.edit(`Set ${s.name.toLowerCase()}`, set(row, param, place))
  const acts: Record<string, () => void> = {
    ArrowUp: () => go(row - 1),
    ArrowDown: () => go(row + 1),
    ArrowLeft: () => (e.ctrlKey ? go(row, -1) : change(placeOf(row, param) - step)),
    ArrowRight: () => (e.ctrlKey ? go(row, 1) : change(placeOf(row, param) + step)),
    Home: () => change(0),
    End: () => change(1),
    Backspace: () => change(toNormalized(s, s.default)),
    Enter: () => (s.unit === 'toggle' ? change(1 - placeOf(row, param)) : type(row, param)),
  }
  const act = acts[e.key]
  if (!act) return
  e.preventDefault()
  e.stopPropagation()
  act()
}

/** Px of the longest words of a column. */
const widthOf = (unit: string): number =>
  (({ toggle: 32, choice: 66, decibel: 62, hertz: 62, percent: 48 }) as Record<string, number>)[unit] ?? 58
/** Share of a table that has to fit its panel. */
const shareOf = (unit: string): string =>
  `${(widthOf(unit) / columns.value.reduce((sum, [, s]) => sum + widthOf(s.unit), 72)) * 100}%`

const column = (param: string) => ({ owner: props.owner, lane: props.lane, param, locked: locked.value })
const dice = (param: string): void =>
  doc.edit(`Randomise ${param}`, diceColumn(column(param), Math.floor(Math.random() * 2 ** 31)))
/** All columns that are not locked. */
function diceAll(): void {
  const free = columns.value.map(([k]) => k).filter((k) => k !== 'on' && !lockedColumns.value.includes(k))
  doc.edit(
    'Randomise table',
    together(...free.map((k) => diceColumn(column(k), Math.floor(Math.random() * 2 ** 31)))),
  )
}
/** Links the modulator in hand to a whole column; fanned out, each item has its own phase of one cycle. */
function link(param: string, fans: boolean): void {
  const source = selection.inHand
  if (!source) return
  const id = newId()
  const fan = { phase: 1, rate: 0, random: 0 }
  doc.edit(
    'Link column',
    together(
      addLink(source, { owner: props.owner, lane: props.lane, param }, 0.2, 0.8, { id }),
      ...(fans ? [updateLink(id, { fan })] : []),
    ),
  )
}
const toggle = (list: readonly number[], row: number): number[] =>
  list.includes(row) ? list.filter((r) => r !== row) : [...list, row]
const toggleName = (list: readonly string[], name: string): string[] =>
  list.includes(name) ? list.filter((n) => n !== name) : [...list, name]
const lockRow = (row: number): void => {
  screen.lockedRows = { ...screen.lockedRows, [key.value]: toggle(locked.value, row) }
}
const lockColumn = (param: string): void => {
  screen.lockedColumns = { ...screen.lockedColumns, [key.value]: toggleName(lockedColumns.value, param) }
}

const lockTip = (row: number): string => {
  const item = `${spec.value?.item ?? ''} ${row + 1}`
  return locked.value.includes(row) ? `Unlocks ${item} for randomising` : `Locks ${item} against randomising`
}

/** Actions for a column. */
const actsOf = (k: string) => {
  const isLocked = lockedColumns.value.includes(k)
  const s = spec.value?.params[k]
  const scaled = s && !isStepped(s)
  return [
    [
      { text: `Randomise ${s?.name.toLowerCase() ?? ''}`, disabled: isLocked, run: () => dice(k) },
      { text: isLocked ? 'Unlock' : 'Lock', run: () => lockColumn(k) },
    ],
    selection.inHand
      ? [
          { text: 'Link all together', run: () => link(k, false) },
          { text: 'Link all, fanned out', run: () => link(k, true) },
        ]
      : [],
    [
      { text: 'Reverse', run: () => doc.edit('Reverse column', reverseColumn(column(k))) },
      { text: 'Rotate down', run: () => doc.edit('Rotate column', rotateColumn(column(k), 1)) },
      { text: 'Rotate up', run: () => doc.edit('Rotate column', rotateColumn(column(k), -1)) },
      ...(scaled
        ? [
            { text: 'Even out', run: () => doc.edit('Even out column', evenColumn(column(k))) },
            { text: 'Gather', run: () => doc.edit('Gather column', gatherColumn(column(k), 0.25)) },
            { text: 'Spread', run: () => doc.edit('Spread column', gatherColumn(column(k), -0.25)) },
            { text: 'Lean up', run: () => doc.edit('Lean column', leanColumn(column(k), 0.1)) },
            { text: 'Lean down', run: () => doc.edit('Lean column', leanColumn(column(k), -0.1)) },
          ]
        : []),
    ],
    columns.value
      .filter(([c, x]) => c !== k && !isStepped(x))
      .map(([from, f]) => ({
        text: `Copy from ${f.name.toLowerCase()}`,
        run: () => doc.edit('Copy column', copyColumn(column(k), from)),
      })),
  ]
}
</script>

<template>
  <div v-if="spec" ref="table" :class="spec.asTable === 'wide' ? '' : 'overflow-x-auto'">
    <table
      class="border-separate border-spacing-x-0.5 border-spacing-y-0.25 text-tiny"
      :class="spec.asTable === 'wide' ? 'w-full max-w-240 table-fixed' : ''"
      :aria-label="`${spec.name} as a table`"
    >
      <thead>
        <tr>
          <th class="sticky top-0 left-0 z-20 w-18 bg-sheet pr-1">
            <button class="small-button" title="Randomises all unlocked columns" @click="diceAll">
              Randomise
            </button>
          </th>
          <th
            v-for="[k, s] in columns"
            :key="k"
            scope="col"
            class="sticky top-0 z-10 bg-sheet px-0 text-left font-medium whitespace-nowrap"
            :style="
              spec.asTable === 'wide' ? { width: shareOf(s.unit) } : { minWidth: `${widthOf(s.unit)}px` }
            "
          >
            <ActionMenu
              class="w-full"
              look="w-full truncate text-left underline decoration-dotted"
              :label="s.name"
              :tip="s.tip"
              :groups="actsOf(k)"
            >
              {{ s.name
              }}<Lock v-if="lockedColumns.includes(k)" class="inline" :size="11" aria-label="locked" />{{
                linked(k) ? ' •' : ''
              }}
            </ActionMenu>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(_, row) in items" :key="row">
          <th scope="row" class="sticky left-0 z-10 bg-sheet pr-1 text-right font-medium">
            <button
              class="flex w-full items-center justify-end gap-0.5"
              :class="row === selection.shownItem ? 'text-magenta' : 'text-second'"
              :aria-pressed="locked.includes(row)"
              :aria-label="`Lock ${spec.item} ${row + 1} against randomising`"
              :title="lockTip(row)"
              @click="lockRow(row)"
            >
              {{ row + 1 }}<Lock v-if="locked.includes(row)" :size="11" aria-hidden="true" />
            </button>
          </th>
          <td v-for="[k, s] in columns" :key="k" class="p-0">
            <TypedField
              v-if="typing?.row === row && typing.param === k"
              class="w-full"
              :value="textOf(row, k)"
              :label="`${s.name}, ${spec.item} ${row + 1}`"
              :take="(text: string) => take(row, k, text)"
              @done="typed(row, k)"
              @keydown.esc.stop="typed(row, k)"
            />
            <div
              v-else
              role="slider"
              tabindex="0"
              class="cell h-4.5 cursor-ew-resize touch-none overflow-hidden px-1 leading-4.5 whitespace-nowrap text-ink -outline-offset-1"
              :style="{ backgroundSize: `${placeOf(row, k) * 100}% 100%` }"
              :data-column="k"
              :data-row="row"
              :aria-label="`${s.name}, ${spec.item} ${row + 1}`"
              :aria-valuenow="valueOf(row, k)"
              :aria-valuemin="s.min"
              :aria-valuemax="s.max"
              :aria-valuetext="textOf(row, k)"
              @pointerdown="stroke($event, k)"
              @dblclick="type(row, k)"
              @keydown="press($event, row, k)"
              @focus="selection.shownItem = row"
            >
              {{ textOf(row, k) }}
            </div>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
/* one box a cell, without clips: hundreds of them are laid into layers for every picture that moves */
.cell {
  background: linear-gradient(var(--water), var(--water)) no-repeat var(--shoal);
}
</style>
