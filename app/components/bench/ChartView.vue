<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { duplicateNode, moveNode } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { branchesOf, kindOf } from '@oleaje/core/project/nodes/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { loopBackParams } from '@oleaje/core/project/nodes/loop-back'
import { outputOf, waysOf } from '@oleaje/core/project/routing'
import { findOwner } from '@oleaje/core/project/walk'
import { formatValue } from '@oleaje/core/units/text'
import { useElementSize, useEventListener, useWindowSize } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { paletteColor, useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { nodeShape } from '../pictures/index'
import {
  type Channel,
  type ChartNode,
  type ChartWays,
  type ReturnFlow,
  type Tributary,
  chartHeight,
  layoutChart,
} from './chart-layout'

/**
 * The chain as a sea chart. The water is canvas; effects, branches and plus marks are elements that can be
 * focused.
 */
const { doc, host, selection, monitoring, screen, notices, guards } = useSession()
const view = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(view)
const { height: pageHeight } = useWindowSize()
/** The share of the page that the chart takes at most. */
const MOST = 0.4
const wanted = computed(() =>
  selection.track
    ? Math.min(
        MOST * pageHeight.value,
        chartHeight(selection.track, (node) => nodeShape(node) === 'ring', ways.value),
      )
    : 118,
)
const chart = computed(() =>
  selection.track
    ? layoutChart(
        selection.track,
        width.value,
        height.value,
        (node) => nodeShape(node) === 'ring',
        ways.value,
      )
    : undefined,
)
/** Sends of the shown track, and inputs of a shown bus. */
const ways = computed<ChartWays>(() => {
  const project = doc.project
  const track = selection.track
  if (!project || !track) return { leaves: [], arrives: [] }
  const nameOf = (id: string): string => project.tracks.find((t) => t.id === id)?.name ?? ''
  const all = waysOf(project)
  return {
    leaves: all.flatMap(({ from, to, send }) =>
      send && from === track.id
        ? [{ key: `peak:send:${send.id}`, from: send.from, name: nameOf(to), track: to }]
        : [],
    ),
    arrives:
      track.kind !== 'bus'
        ? []
        : all.flatMap(({ from, to, send }) =>
            to === track.id
              ? [
                  {
                    key: send ? `peak:send:${send.id}` : `peak:track:${from}`,
                    name: nameOf(from),
                    track: from,
                  },
                ]
              : [],
          ),
  }
})
const outName = computed(() => {
  const { project } = doc
  const track = selection.track
  if (!project || !track || track.kind === 'mix') return 'out'
  const to = outputOf(project, track)
  return to ? `to ${to.name}` : 'to sends only'
})
const headName = computed(() => {
  const { track } = selection
  if (track?.kind === 'mix') return 'all tracks'
  // what arrives at a bus has its own names
  if (track?.kind === 'bus' && ways.value.arrives.length) return ''
  const name = track?.name ?? ''
  // an input is often called so already
  return /\bin$/i.test(name) ? name : `${name} in`
})
const dragged = ref<{ id: string; copy: boolean } | null>(null)

const badges = computed(() => {
  const mods = new Map(doc.project?.tracks.flatMap((t) => t.modulators).map((m) => [m.id, m]) ?? [])
  const by = new Map<string, { letter: string; hue: number; id: string }[]>()
  for (const link of doc.project?.links ?? []) {
    const m = mods.get(link.source)
    if (!m) continue
    const list = by.get(link.target.owner) ?? []
    if (!list.some((b) => b.id === m.id)) list.push({ letter: m.letter, hue: m.hue, id: m.id })
    by.set(link.target.owner, list)
  }
  return by
})
const isLit = (id: string): boolean => {
  const m = selection.pointed?.modulator
  return !!m && (badges.value.get(id)?.some((b) => b.id === m) ?? false)
}
const sidechain = (node: ChainNode): string => {
  const to = kindOf(node).listens?.(node)
  return to ? (doc.project?.tracks.find((t) => t.id === to.track)?.name ?? '') : ''
}
/** Names get smaller where effects are narrow, before they are cut off. */
const nameSize = (n: ChartNode): string =>
  n.height < 34 || n.width < 60 ? 'text-tiny' : n.width < 80 ? 'text-small' : 'px-1 text-plain'
const isOn = (node: ChainNode): boolean => (node.params.on ?? 1) >= 0.5
const describe = (node: ChainNode, name: string): string =>
  [
    name,
    isOn(node) ? 'on' : 'off',
    sidechain(node) && `sidechain ${sidechain(node)}`,
    badges.value.get(node.id)?.length
      ? `moved by ${badges.value
          .get(node.id)
          ?.map((b) => b.letter)
          .join(', ')}`
      : '',
  ]
    .filter(Boolean)
    .join(', ')

/** Widths of the water by its live value, 0…1 over 54 dB. */
const flow = new Map<string, number>()
/** The width that follows a peak: up at once, down gently. */
function run(key: string, peak: number): number {
  const wanted = peak > 0.0001 ? Math.max(0, Math.min(1, (20 * Math.log10(peak) + 54) / 54)) : 0
  const before = flow.get(key) ?? 0
  const now = wanted > before ? wanted : before + (wanted - before) * 0.15
  flow.set(key, now)
  return now
}

const canvas = useCanvas((pen) => {
  const c = chart.value
  if (!c) return
  const { telemetry } = host
  pen.g.lineCap = 'round'
  pen.still([c], (g) => {
    g.lineCap = 'round'
    for (const r of c.returns) back(g, r, 34 * c.scale, paletteColor('land-edge'))
    for (const r of c.returns) back(g, r, 30 * c.scale, paletteColor('shoal'))
    stroke(g, c.channels, () => 58 * c.scale, paletteColor('land-edge'))
    stroke(g, c.channels, () => 52 * c.scale, paletteColor('shoal'))
  })
  for (const ch of c.channels) run(ch.key, ch.dry ? 0 : telemetry.get(ch.key))
  for (const r of c.returns) {
    const peak = telemetry.get(r.key)
    const now = run(r.key, peak)
    if (now > 0.005) {
      back(pen.g, r, 2 + 25 * now, paletteColor('water'))
      back(pen.g, r, 1 + 10 * now * now, paletteColor(peak > 1 ? 'magenta' : 'deep'))
    }
  }
  for (const t of c.tributaries) {
    const peak = telemetry.get(t.key)
    const now = run(t.key, peak)
    tributary(pen.g, t, 7, paletteColor('land-edge'))
    tributary(pen.g, t, 5, paletteColor('shoal'))
    if (now > 0.005) tributary(pen.g, t, 1 + 5 * now, paletteColor(peak > 1 ? 'magenta' : 'deep'))
  }
  const level = (ch: Channel): number => (ch.dry ? 0 : (flow.get(ch.key) ?? 0))
  stroke(
    pen.g,
    c.channels.filter((ch) => level(ch) > 0.005),
    (ch) => (3 + 40 * level(ch)) * c.scale,
    paletteColor('water'),
  )
  const over = (ch: Channel): boolean => telemetry.get(ch.key) > 1
  stroke(
    pen.g,
    c.channels.filter((ch) => level(ch) > 0.005 && !over(ch)),
    (ch) => (1 + 17 * level(ch) * level(ch)) * c.scale,
    paletteColor('deep'),
  )
  stroke(pen.g, c.channels.filter(over), (ch) => (8 + 17 * level(ch)) * c.scale, paletteColor('magenta'))
})

/** Draws channels as smooth courses, grouped so that land and water never overlap their neighbours. */
function stroke(
  g: CanvasRenderingContext2D,
  channels: readonly Channel[],
  widthOf: (ch: Channel) => number,
  color: string,
): void {
  g.strokeStyle = color
  for (const ch of channels) {
    g.lineWidth = widthOf(ch) * (ch.y0 !== ch.y1 ? 0.92 : 1)
    g.beginPath()
    g.moveTo(ch.x0, ch.y0)
    if (ch.y0 === ch.y1) g.lineTo(ch.x1, ch.y1)
    else {
      const m = (ch.x0 + ch.x1) / 2
      g.bezierCurveTo(m, ch.y0, m, ch.y1, ch.x1, ch.y1)
    }
    g.stroke()
  }
}

/** Thin water beside the channel, from where it leaves to its name or the other way round. */
function tributary(g: CanvasRenderingContext2D, t: Tributary, width: number, color: string): void {
  g.strokeStyle = color
  g.lineWidth = width
  g.beginPath()
  g.moveTo(t.x0, t.y0)
  g.quadraticCurveTo(t.arrives ? t.x1 : t.x0, t.arrives ? t.y0 : t.y1, t.x1, t.y1)
  g.stroke()
}

/** Water that runs back under its channel. */
function back(g: CanvasRenderingContext2D, r: ReturnFlow, width: number, color: string): void {
  const bend = Math.min(26, r.y1 - r.y0)
  g.strokeStyle = color
  g.lineWidth = width
  g.lineJoin = 'round'
  g.beginPath()
  g.moveTo(r.x1, r.y0)
  g.lineTo(r.x1, r.y1 - bend)
  g.quadraticCurveTo(r.x1, r.y1, r.x1 - bend, r.y1)
  g.lineTo(r.x0 + bend, r.y1)
  g.quadraticCurveTo(r.x0, r.y1, r.x0, r.y1 - bend)
  g.lineTo(r.x0, r.y0)
  g.stroke()
}

/** Description of a loop. */
function roundText(node: ChainNode): string {
  const value = (k: 'time' | 'length' | 'feedback' | 'sync'): number =>
    node.params[k] ?? loopBackParams[k].default
  const time =
    value('sync') >= 0.5
      ? formatValue(loopBackParams.length, value('length'))
      : formatValue(loopBackParams.time, value('time'))
  return `‹ feedback after ${time}, ${Math.round(value('feedback') * 100)} %`
}

function press(e: MouseEvent, node: ChainNode): void {
  selection.select(node.id, e.shiftKey)
  guards.letGo(node.id)
}

/** A badge dropped on an effect: the effect is selected and its gauges wait for the modulator. */
function dropBadge(node: ChainNode): void {
  if (!selection.carried) return
  selection.inHand = selection.carried
  selection.carried = null
  selection.select(node.id)
}

function dropOn(spot: { after: string } | { startOf: string }): void {
  const d = dragged.value
  dragged.value = null
  if (!d) return
  if (!d.copy) return doc.edit('Move effect', moveNode(d.id, spot))
  const ids = new Map<string, string>()
  doc.edit(
    'Copy effect',
    together(duplicateNode(d.id, ids), (p) => moveNode(ids.get(d.id) ?? '', spot)(p)),
  )
}

const boxOf = (n: ChartNode): Record<string, string> => ({
  left: `${n.x}px`,
  top: `${n.y}px`,
  width: `${n.width}px`,
  height: `${n.height}px`,
})
function plateLook(n: ChartNode): string[] {
  const { id } = n.node
  return [
    selection.selected.includes(id)
      ? 'border-ink bg-ink text-paper'
      : isOn(n.node)
        ? 'border-ink bg-sheet'
        : 'border-dashed border-second bg-shoal text-second',
    isLit(id) ? 'outline-2 outline-magenta' : '',
    notices.cut.includes(id) ? 'outline-3 outline-magenta' : '',
  ]
}
const labelLook = (id: string): string[] => [
  monitoring.soloBranches.includes(id) ? 'text-magenta' : 'text-ink',
  selection.selectedId === id ? 'outline-2 outline-ink' : '',
]
const ringLook = (node: ChainNode): string[] => [
  selection.selected.includes(node.id) ? 'bg-ink text-paper' : '',
  isOn(node) ? '' : 'line-through',
  notices.cut.includes(node.id) ? 'text-magenta' : '',
]
/** Badges that there is room for, and how many more there are. */
const roomFor = (n: ChartNode): number => Math.max(1, Math.floor((n.width - 24) / 18))
const badgesShown = (n: ChartNode) => {
  const all = badges.value.get(n.node.id) ?? []
  return all.length <= roomFor(n) ? all : all.slice(0, roomFor(n) - 1)
}
const badgesLeft = (n: ChartNode): number =>
  (badges.value.get(n.node.id)?.length ?? 0) - badgesShown(n).length

/**
 * Names of branches stand on the land outside them; that of a middle one on its own water, clear of the fork.
 */
function labelPlace(label: { x: number; y: number }): Record<string, string> {
  const middle = chart.value ? chart.value.height / 2 : 0
  if (Math.abs(label.y - middle) < 1) return { left: `${label.x + 2}px`, top: `${label.y - 13}px` }
  return {
    left: `${label.x + 10}px`,
    top: `${label.y + (label.y < middle ? -33 : 33) * (chart.value?.scale ?? 1)}px`,
    transform: 'translateX(-100%)',
  }
}

function openAdd(spot: { after: string } | { startOf: string }): void {
  screen.addSpot = spot
  screen.dialog = 'add'
}

function toggleMute(id: string): void {
  const b = doc.project && findOwner(doc.project, id)
  if (b?.kind === 'branch')
    doc.edit(`Mute ${b.branch.name}`, setParam(id, 'mute', (b.branch.params.mute ?? 0) >= 0.5 ? 0 : 1))
}

/** Whether the focus was last on the chart, or on something there that has been taken out since. */
let hadFocus = false
useEventListener(view, 'focusin', () => {
  hadFocus = true
})
useEventListener(document, 'focusin', (e) => {
  if (!view.value?.contains(e.target as Node)) hadFocus = false
})

/**
 * What is selected is in sight; where the chart had the focus, it goes to what is selected: moved, added,
 * split or next to what went.
 */
watch(
  () => [selection.selectedId, chart.value] as const,
  async ([id]) => {
    await nextTick()
    const el = view.value?.querySelector<HTMLElement>(`[data-node="${id}"], [data-branch="${id}"]`)
    if (!el) return
    // at once, before the next key; the view is moved once a frame
    if (
      hadFocus &&
      (document.activeElement === document.body || view.value?.contains(document.activeElement))
    )
      el.focus({ preventScroll: true })
    requestAnimationFrame(() => el.scrollIntoView({ block: 'nearest', inline: 'nearest' }))
  },
)
</script>

<template>
  <section
    class="relative shrink-0 border-b border-line bg-land"
    :style="{ height: `${wanted}px` }"
    aria-label="Chart"
    data-region="chart"
  >
    <ChartOverview v-if="chart" :chart="chart" :view="view" :width="width" />
    <div ref="view" class="bare h-full overflow-auto">
      <div
        v-if="chart && selection.track"
        class="relative"
        :style="{ width: `${chart.width}px`, height: `${chart.height}px` }"
      >
        <canvas ref="canvas" class="absolute inset-0 h-full w-full" aria-hidden="true" />
        <button
          class="water-name absolute left-2 bg-transparent text-plain text-second"
          :style="{ top: `${chart.height / 2 - 48 * chart.scale - 9}px` }"
          :disabled="!selection.track.source"
          title="Shows the source of this track"
          @click="selection.track.source && selection.select(selection.track.source.id)"
        >
          {{ headName }}
        </button>
        <span
          class="water-name pointer-events-none absolute right-2 text-plain text-second"
          :style="{ top: `${chart.height / 2 + 31 * chart.scale}px` }"
        >
          {{ outName }}
        </span>
        <button
          v-for="t in chart.tributaries"
          :key="t.key"
          class="water-name absolute bg-transparent px-1 text-small whitespace-nowrap text-second"
          :style="{
            left: `${(t.arrives ? t.x0 : t.x1) + 4}px`,
            top: `${t.arrives ? t.y0 : t.y1}px`,
            translate: '0 -50%',
          }"
          :aria-label="t.arrives ? `From ${t.name}` : `To ${t.name}`"
          :title="`Shows ${t.name}`"
          @click="selection.selectTrack(t.track)"
        >
          {{ t.arrives ? `${t.name} ›` : `› ${t.name}` }}
        </button>
        <p v-if="!chart.nodes.length" class="absolute inset-x-0 bottom-1 text-center text-small text-second">
          No effects yet. Press <b>A</b> or click + to add the first one.
        </p>
        <button
          v-for="label in chart.labels"
          :key="label.id"
          class="water-name absolute -translate-y-1/2 bg-transparent px-1 text-plain"
          :class="labelLook(label.id)"
          :style="labelPlace(label)"
          :data-branch="label.id"
          :title="`Selects ${label.name}. S solos it, double-click mutes it, Ctrl+C copies it.`"
          :aria-label="`Branch ${label.name}`"
          :aria-current="selection.selectedId === label.id"
          @click="selection.select(label.id)"
          @dblclick="toggleMute(label.id)"
        >
          {{ label.name }}
        </button>
        <button
          v-for="plus in chart.pluses"
          :key="JSON.stringify(plus.spot)"
          class="plus"
          :style="{ left: `${plus.x}px`, top: `${plus.y}px` }"
          :aria-label="plus.label"
          :title="`${plus.label} (A)`"
          tabindex="-1"
          @click="openAdd(plus.spot)"
          @dragover.prevent
          @drop.prevent="dropOn(plus.spot)"
        >
          +
        </button>
        <template v-for="n in chart.nodes" :key="n.node.id">
          <button
            v-if="nodeShape(n.node) === 'plate'"
            class="absolute flex -translate-y-1/2 items-center justify-center border leading-tight"
            :class="[plateLook(n), n.height < 34 ? 'gap-1' : 'flex-col']"
            :style="boxOf(n)"
            draggable="true"
            :data-node="n.node.id"
            :aria-label="describe(n.node, n.name)"
            :aria-current="selection.selectedId === n.node.id"
            :title="`${n.name}. X turns it on or off, D duplicates it, drag to move it`"
            @click="press($event, n.node)"
            @pointerup="dropBadge(n.node)"
            @dragstart="dragged = { id: n.node.id, copy: $event.ctrlKey || $event.metaKey }"
            @dragend="dragged = null"
          >
            <span class="max-w-full truncate font-semibold" :class="nameSize(n)">{{ n.name }}</span>
            <span v-if="!isOn(n.node)" class="text-tiny">off</span>
            <span
              v-else-if="badges.get(n.node.id)?.length && n.height >= 34"
              class="mt-0.5 flex items-center gap-0.5"
            >
              <Badge v-for="b in badgesShown(n)" :key="b.id" :letter="b.letter" :hue="b.hue" small />
              <span v-if="badgesLeft(n)" class="text-tiny">+{{ badgesLeft(n) }}</span>
            </span>
            <MatterMark :of="n.node.id" bar />
            <span v-if="sidechain(n.node)" class="flag"> ⚑ {{ sidechain(n.node) }} </span>
          </button>
          <button
            v-else-if="nodeShape(n.node) === 'fork'"
            class="absolute h-4 w-4 -translate-y-1/2 rotate-45 border border-ink"
            :class="selection.selected.includes(n.node.id) ? 'bg-ink' : 'bg-sheet'"
            :style="{ left: `${n.x + 3}px`, top: `${n.y}px` }"
            :data-node="n.node.id"
            :aria-label="`${n.name} into ${branchesOf(n.node).length} branches, ${isOn(n.node) ? 'on' : 'off'}`"
            title="Selects the split"
            @click="press($event, n.node)"
          />
          <button
            v-else-if="nodeShape(n.node) === 'ring'"
            class="water-name absolute -translate-y-1/2 truncate px-1 text-plain"
            :class="ringLook(n.node)"
            :style="boxOf(n)"
            :data-node="n.node.id"
            :aria-label="`${n.name}, ${roundText(n.node)}, ${isOn(n.node) ? 'on' : 'off'}`"
            :title="`${n.name}: selects the loop-back. X turns it on or off`"
            @click="press($event, n.node)"
            @pointerup="dropBadge(n.node)"
          >
            {{ roundText(n.node) }}
          </button>
          <button
            v-else
            class="frame absolute -translate-y-1/2 border border-dashed border-ink"
            :class="selection.selected.includes(n.node.id) ? 'border-2' : ''"
            :style="boxOf(n)"
            :data-node="n.node.id"
            :aria-label="`${n.node.name ? `${kindOf(n.node).title(n.node)} ` : ''}${n.name}, ${isOn(n.node) ? 'on' : 'off'}`"
            :title="`${n.name}: selects the group. X turns it on or off`"
            @click="press($event, n.node)"
          >
            <span class="water-name absolute top-0 left-1 text-small">{{ n.name }}</span>
          </button>
        </template>
      </div>
    </div>
    <SnapshotStrip v-if="selection.track" class="absolute top-1 right-2" />
  </section>
</template>

<style scoped>
/* the overview scrolls it */
.bare {
  scrollbar-width: none;
}
.plus {
  position: absolute;
  display: flex;
  width: 16px;
  height: 16px;
  align-items: center;
  justify-content: center;
  border: 1px solid var(--second);
  border-radius: 50%;
  background: var(--sheet);
  font-size: 13px;
  line-height: 1;
  opacity: 0.8;
  translate: -50% -50%;
}
.plus:hover,
.plus:focus {
  opacity: 1;
}
.flag {
  position: absolute;
  top: -18px;
  left: 0;
  padding-left: 4px;
  border-left: 1px dashed var(--second);
  background: var(--land);
  font-size: 12px;
  white-space: nowrap;
  color: var(--second);
}
/* only its upper edge is taken hold of, so that what is inside can be pressed */
.frame {
  background: transparent;
  clip-path: polygon(0 0, 100% 0, 100% 18px, 0 18px);
}
</style>
