<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { duplicateNode, moveNode } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { branchesOf, kindOf } from '@oleaje/core/project/nodes/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { loopBackParams } from '@oleaje/core/project/nodes/loop-back'
import { findOwner } from '@oleaje/core/project/walk'
import { formatValue } from '@oleaje/core/units/text'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { paletteColor, useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { nodeShape } from '../pictures/index'
import { type Channel, type ReturnFlow, layoutChart } from './chart-layout'

/** The chain as a sea chart. The water is canvas; effects, branches and plus marks are elements that can be focused. */
const { doc, bench, host } = useSession()
const view = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(view)
const chart = computed(() => (bench.track ? layoutChart(bench.track, width.value, height.value, (node) => nodeShape(node) === 'ring') : undefined))
const guarded = ref<string[]>([])
const dragged = ref<{ id: string, copy: boolean } | null>(null)

const badges = computed(() => {
  const mods = new Map(doc.project?.tracks.flatMap((t) => t.modulators).map((m) => [m.id, m]) ?? [])
  const by = new Map<string, { letter: string, hue: number, id: string }[]>()
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
  const m = bench.pointed?.modulator
  return !!m && (badges.value.get(id)?.some((b) => b.id === m) ?? false)
}
const sidechain = (node: ChainNode): string => {
  const to = kindOf(node).listens?.(node)
  return to ? doc.project?.tracks.find((t) => t.id === to.track)?.name ?? '' : ''
}
const isOn = (node: ChainNode): boolean => (node.params.on ?? 1) >= 0.5
const describe = (node: ChainNode, name: string): string => [name, isOn(node) ? 'on' : 'off', sidechain(node) && `sidechain ${sidechain(node)}`,
  badges.value.get(node.id)?.length ? `moved by ${badges.value.get(node.id)?.map((b) => b.letter).join(', ')}` : ''].filter(Boolean).join(', ')

// widths of the water, smoothed: up at once, down gently
const flow = new Map<string, number>()
let checked = 0

const canvas = useCanvas((pen, now) => {
  const c = chart.value
  if (!c) return
  const { telemetry } = host
  pen.g.lineCap = 'round'
  pen.still([c], (g) => {
    g.lineCap = 'round'
    for (const r of c.returns) back(g, r, 34, paletteColor('land-edge'))
    for (const r of c.returns) back(g, r, 30, paletteColor('shoal'))
    stroke(g, c.channels, () => 58, paletteColor('land-edge'))
    stroke(g, c.channels, () => 52, paletteColor('shoal'))
  })
  for (const ch of c.channels) {
    const peak = telemetry.get(ch.key)
    const db = peak > 0.0001 ? 20 * Math.log10(peak) : -80
    const wanted = ch.dry ? 0 : Math.max(0, Math.min(1, (db + 54) / 54))
    const before = flow.get(ch.key) ?? 0
    flow.set(ch.key, wanted > before ? wanted : before + (wanted - before) * 0.15)
  }
  for (const r of c.returns) {
    const peak = telemetry.get(r.key)
    const wanted = peak > 0.0001 ? Math.max(0, Math.min(1, (20 * Math.log10(peak) + 54) / 54)) : 0
    const before = flow.get(r.key) ?? 0
    const now = wanted > before ? wanted : before + (wanted - before) * 0.15
    flow.set(r.key, now)
    if (now > 0.005) {
      back(pen.g, r, 2 + 25 * now, paletteColor('water'))
      back(pen.g, r, 1 + 10 * now * now, paletteColor(peak > 1 ? 'magenta' : 'deep'))
    }
  }
  const level = (ch: Channel): number => (ch.dry ? 0 : flow.get(ch.key) ?? 0)
  stroke(pen.g, c.channels.filter((ch) => level(ch) > 0.005), (ch) => 3 + 40 * level(ch), paletteColor('water'))
  const over = (ch: Channel): boolean => telemetry.get(ch.key) > 1
  stroke(pen.g, c.channels.filter((ch) => level(ch) > 0.005 && !over(ch)), (ch) => 1 + 17 * level(ch) * level(ch), paletteColor('deep'))
  stroke(pen.g, c.channels.filter(over), (ch) => 8 + 17 * level(ch), paletteColor('magenta'))
  if (now - checked > 300) {
    checked = now
    const tripped = c.nodes.filter((n) => telemetry.get(`trips:node:${n.node.id}`) > (bench.acknowledged[n.node.id] ?? 0)).map((n) => n.node.id)
    if (tripped.join() !== guarded.value.join()) {
      guarded.value = tripped
      const name = c.nodes.find((n) => n.node.id === tripped[0])?.name
      if (name) doc.trouble = `${name} ran away and was cut; the rest plays on. Click its mark on the chart to let it sound again; by itself it does when its input has been quiet for a second.`
    }
  }
})

/** Draws channels as smooth courses, grouped so that land and water never overlap their neighbours. */
function stroke(g: CanvasRenderingContext2D, channels: readonly Channel[], widthOf: (ch: Channel) => number, color: string): void {
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

/** What a loop does, in words. */
function roundText(node: ChainNode): string {
  const value = (k: 'time' | 'length' | 'feedback' | 'sync'): number => node.params[k] ?? loopBackParams[k].default
  const time = value('sync') >= 0.5 ? formatValue(loopBackParams.length, value('length')) : formatValue(loopBackParams.time, value('time'))
  return `‹ round in ${time}, ${Math.round(value('feedback') * 100)} %`
}

function press(e: MouseEvent, node: ChainNode): void {
  bench.select(node.id, e.shiftKey)
  if (!guarded.value.includes(node.id)) return
  host.acknowledge(node.id)
  bench.acknowledged = { ...bench.acknowledged, [node.id]: host.telemetry.get(`trips:node:${node.id}`) }
}

/** A badge dropped on an effect: the effect is selected and its gauges wait for the modulator. */
function dropBadge(node: ChainNode): void {
  if (!bench.carried) return
  bench.inHand = bench.carried
  bench.carried = null
  bench.select(node.id)
}

function dropOn(spot: { after: string } | { startOf: string }): void {
  const d = dragged.value
  dragged.value = null
  if (!d) return
  if (!d.copy) return doc.edit('Move effect', moveNode(d.id, spot))
  const ids = new Map<string, string>()
  doc.edit('Copy effect', together(duplicateNode(d.id, ids), (p) => moveNode(ids.get(d.id) ?? '', spot)(p)))
}

/** Names of branches stand on the land outside them; that of a middle one on its own water, clear of the fork. */
function labelPlace(label: { x: number, y: number }): Record<string, string> {
  const middle = chart.value ? chart.value.height / 2 : 0
  if (Math.abs(label.y - middle) < 1) return { left: `${label.x + 2}px`, top: `${label.y - 13}px` }
  return { left: `${label.x + 10}px`, top: `${label.y + (label.y < middle ? -33 : 33)}px`, transform: 'translateX(-100%)' }
}

function openAdd(spot: { after: string } | { startOf: string }): void {
  bench.addSpot = spot
  bench.dialog = 'add'
}

function toggleMute(id: string): void {
  const b = doc.project && findOwner(doc.project, id)
  if (b?.kind === 'branch') doc.edit(`Mute ${b.branch.name}`, setParam(id, 'mute', (b.branch.params.mute ?? 0) >= 0.5 ? 0 : 1))
}

/** Keeps the selected element focused when the chart was walked by key. */
watch(() => bench.selectedId, (id) => {
  if (view.value?.contains(document.activeElement)) requestAnimationFrame(() => view.value?.querySelector<HTMLElement>(`[data-node="${id}"]`)?.focus())
})
</script>

<template>
  <section ref="view" class="relative h-full overflow-x-auto overflow-y-hidden bg-land" aria-label="Chart of the chain" data-region="chart">
    <div v-if="chart && bench.track" class="relative h-full" :style="{ width: `${chart.width}px` }">
      <canvas ref="canvas" class="absolute inset-0 h-full w-full" aria-hidden="true" />
      <span class="water-name pointer-events-none absolute left-2 text-[14px] text-second" :style="{ top: `${chart.height / 2 - 50}px` }">{{ bench.track.kind === 'mix' ? 'all tracks in' : `${bench.track.name} in` }}</span>
      <span class="water-name pointer-events-none absolute right-2 text-[14px] text-second" :style="{ top: `${chart.height / 2 - 50}px` }">{{ bench.track.kind === 'mix' ? 'out' : 'to Mix' }}</span>
      <p v-if="!chart.nodes.length" class="absolute inset-x-0 top-3 text-center text-second">The water runs straight through. Press <b>A</b> or the plus to add the first effect.</p>
      <button
        v-for="label in chart.labels" :key="label.id" class="water-name absolute -translate-y-1/2 bg-transparent px-1 text-[14px]" :class="bench.soloBranches.includes(label.id) ? 'text-magenta' : 'text-ink'"
        :style="labelPlace(label)" :title="`${label.name}: click to hear it alone, double-click to mute`"
        :aria-label="`Branch ${label.name}`" :aria-pressed="bench.soloBranches.includes(label.id)" @click="bench.toggleSoloBranch(label.id)" @dblclick="toggleMute(label.id)"
      >{{ label.name }}</button>
      <button
        v-for="plus in chart.pluses" :key="JSON.stringify(plus.spot)" class="absolute flex h-[16px] w-[16px] -translate-x-1/2 -translate-y-1/2 items-center justify-center rounded-full border border-second bg-sheet text-[13px] leading-none opacity-80 hover:opacity-100 focus:opacity-100"
        :style="{ left: `${plus.x}px`, top: `${plus.y}px` }" :aria-label="plus.label" :title="`${plus.label} (A)`" tabindex="-1" @click="openAdd(plus.spot)" @dragover.prevent @drop.prevent="dropOn(plus.spot)"
      >+</button>
      <template v-for="n in chart.nodes" :key="n.node.id">
        <button
          v-if="nodeShape(n.node) === 'plate'" class="absolute flex -translate-y-1/2 flex-col items-center justify-center border leading-tight" draggable="true" :data-node="n.node.id"
          :class="[bench.selected.includes(n.node.id) ? 'border-ink bg-ink text-paper' : isOn(n.node) ? 'border-ink bg-sheet' : 'border-dashed border-second bg-shoal text-second', isLit(n.node.id) ? 'outline-2 outline-magenta' : '', guarded.includes(n.node.id) ? 'outline-3 outline-magenta' : '']"
          :style="{ left: `${n.x}px`, top: `${n.y}px`, width: `${n.width}px`, height: `${n.height}px` }" :aria-label="describe(n.node, n.name)" :aria-current="bench.selectedId === n.node.id"
          :title="`${n.name}. X switches off and on, D duplicates, drag to move`"
          @click="press($event, n.node)" @pointerup="dropBadge(n.node)" @dragstart="dragged = { id: n.node.id, copy: $event.ctrlKey || $event.metaKey }" @dragend="dragged = null"
        >
          <span class="max-w-full truncate px-1 text-[14px] font-semibold">{{ n.name }}</span>
          <span v-if="!isOn(n.node)" class="text-[12px]">off</span>
          <span v-else-if="badges.get(n.node.id)?.length" class="mt-[2px] flex gap-[2px]"><Badge v-for="b in badges.get(n.node.id)?.slice(0, 4)" :key="b.id" :letter="b.letter" :hue="b.hue" small /></span>
          <span v-if="sidechain(n.node)" class="absolute -top-[18px] left-0 whitespace-nowrap border-l border-dashed border-second bg-land pl-1 text-[12px] text-second">⚑ {{ sidechain(n.node) }}</span>
        </button>
        <button
          v-else-if="nodeShape(n.node) === 'fork'" class="absolute -translate-y-1/2 rotate-45 border border-ink" :class="bench.selected.includes(n.node.id) ? 'bg-ink' : 'bg-sheet'" :data-node="n.node.id"
          :style="{ left: `${n.x + 3}px`, top: `${n.y}px`, width: '16px', height: '16px', marginTop: '0px' }" :aria-label="`${n.name} into ${branchesOf(n.node).length} branches, ${isOn(n.node) ? 'on' : 'off'}`" title="Split: click to see its branches" @click="press($event, n.node)"
        />
        <button
          v-else-if="nodeShape(n.node) === 'ring'" class="water-name absolute -translate-y-1/2 truncate px-1 text-[14px]" :class="[bench.selected.includes(n.node.id) ? 'bg-ink text-paper' : '', isOn(n.node) ? '' : 'line-through', guarded.includes(n.node.id) ? 'text-magenta' : '']"
          :style="{ left: `${n.x}px`, top: `${n.y}px`, width: `${n.width}px`, height: `${n.height}px` }" :data-node="n.node.id" :aria-label="`${n.name}, ${roundText(n.node)}, ${isOn(n.node) ? 'on' : 'off'}`"
          :title="`${n.name}: what comes out of it goes in again. X switches off and on`" @click="press($event, n.node)" @pointerup="dropBadge(n.node)"
        >{{ roundText(n.node) }}</button>
        <button
          v-else class="absolute -translate-y-1/2 border border-dashed border-ink" :class="bench.selected.includes(n.node.id) ? 'border-2' : ''" :data-node="n.node.id" style="background: transparent; clip-path: polygon(0 0, 100% 0, 100% 18px, 0 18px)"
          :style="{ left: `${n.x}px`, top: `${n.y}px`, width: `${n.width}px`, height: `${n.height}px` }" :aria-label="`${kindOf(n.node).title(n.node)} ${n.name}, ${isOn(n.node) ? 'on' : 'off'}`" @click="press($event, n.node)"
        ><span class="water-name absolute left-1 top-0 text-[13px]">{{ n.name }}</span></button>
      </template>
    </div>
  </section>
</template>
