<script setup lang="ts">
import { removeLink, setLinkEnds, setLinkMode, updateLink } from '@oleaje/core/project/motion-edits'
import type { Quantise } from '@oleaje/core/project/schema'
import { findTarget, followsPitch, linkEnds, linkValues } from '@oleaje/core/project/targets'
import { isStepped } from '@oleaje/core/units/parameter'
import { toNormalized } from '@oleaje/core/units/scale'
import { formatValue, parseValue } from '@oleaje/core/units/text'
import { noteNames, scales } from '@oleaje/core/units/tuning'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Everything about one link, typed in the target's own units. */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const { doc, bench } = session
const wrong = ref('')

const link = computed(() => doc.project?.links.find((l) => l.id === props.id))
const target = computed(() => (doc.project && link.value ? findTarget(doc.project, link.value.target) : undefined))
const modulator = computed(() => doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === link.value?.source))
const ends = computed(() => (link.value && target.value ? linkValues({ ...link.value, amount: 1 }, target.value.spec, target.value.base) : { from: 0, to: 0 }))
const show = (v: number): string => (target.value ? formatValue(target.value.spec, v) : '')

function setEnd(which: 'from' | 'to', text: string): void {
  const t = target.value
  const l = link.value
  if (!t || !l) return
  try {
    const place = toNormalized(t.spec, parseValue(t.spec, text, ends.value[which]))
    const now = linkEnds({ ...l, amount: 1 }, t.spec, t.base)
    doc.edit('Set range', setLinkEnds(props.id, which === 'from' ? place : now.from, which === 'to' ? place : now.to))
    wrong.value = ''
  } catch (error) {
    wrong.value = sentence(error)
  }
}

const number = (e: Event): number => Number((e.target as HTMLInputElement).value)
const slew = (e: Event): number => Math.min(10, Math.max(0, number(e) / 1000))
const fanTips = { phase: 'Cycles between the first item and the last', rate: 'Octaves of speed between the first item and the last', random: 'How far each item’s place is drawn at random' }
const quantiseKey = (q: Quantise | null): string => (!q ? '' : q.to === 'steps' ? `steps:${q.steps}` : `scale:${q.scale}`)

function quantiseFrom(key: string, before: Quantise | null): Quantise | null {
  const [to, n] = key.split(':')
  if (to === 'steps') return { to: 'steps', steps: Number(n) }
  return to === 'scale' ? { to: 'scale', scale: Number(n), root: before?.to === 'scale' ? before.root : 2 } : null
}
const text = (e: Event): string => (e.target as HTMLInputElement).value
</script>

<template>
  <div v-if="link && target" class="my-1 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-2 bg-shoal px-2 py-1 text-[13px]" :style="{ borderColor: `var(--hue-${modulator?.hue ?? 0})` }" @keydown.esc.stop="emit('close')" @keydown.stop>
    <span class="water-name">{{ modulator?.name }}</span>
    <label>at its lowest <TextField class="field w-[84px]" :value="show(ends.from)" @change="setEnd('from', text($event))" /></label>
    <label>at its highest <TextField class="field w-[84px]" :value="show(ends.to)" @change="setEnd('to', text($event))" /></label>
    <label v-if="!isStepped(target.spec)">range <select class="field" :value="link.mode" title="Floating: it moves along with the base. Fixed: it stays at its values. Pitch: it follows the note one-to-one" @change="doc.edit('Change link mode', setLinkMode(id, text($event) as 'fixed'))">
      <option value="floating">floating</option><option value="fixed">fixed</option><option v-if="followsPitch(target.spec)" value="pitch">pitch</option>
    </select></label>
    <label v-if="link.mode !== 'pitch' && !isStepped(target.spec) && target.spec.law !== 'linear'">way <select class="field" :value="link.law" title="Between its ends: even on the staff of the gauge, or even in its unit, as two times that swing in milliseconds" @change="doc.edit('Law of the link', updateLink(id, { law: text($event) as 'scale' | 'unit' }))">
      <option value="scale">even on its staff</option><option value="unit">even in its unit</option>
    </select></label>
    <label v-if="link.mode === 'pitch'">transposed <TextField class="field w-[62px]" type="number" min="-96" max="96" step="1" :value="link.transpose" @change="doc.edit('Transpose link', updateLink(id, { transpose: Math.min(96, Math.max(-96, number($event))) }))" /> st</label>
    <label>bend <TextField class="field w-[62px]" type="number" min="-100" max="100" :value="Math.round(link.curve * 100)" @change="doc.edit('Bend link', updateLink(id, { curve: Math.min(1, Math.max(-1, number($event) / 100)) }))" /> %</label>
    <label>slew up <TextField class="field w-[62px]" type="number" min="0" max="10000" :value="Math.round(link.slewUp * 1000)" @change="doc.edit('Set slew', updateLink(id, { slewUp: slew($event) }))" /> down <TextField class="field w-[62px]" type="number" min="0" max="10000" aria-label="Slew down in ms" :value="Math.round(link.slewDown * 1000)" @change="doc.edit('Set slew', updateLink(id, { slewDown: slew($event) }))" /> ms</label>
    <label v-if="!isStepped(target.spec)">stands on <select class="field" :value="quantiseKey(link.quantise)" title="Any value, even steps of the staff, or notes of a scale" @change="doc.edit('Quantise link', updateLink(id, { quantise: quantiseFrom(text($event), link.quantise) }))">
      <option value="">any value</option><option v-for="n in [2, 3, 4, 6, 8, 12, 16, 24]" :key="n" :value="`steps:${n}`">{{ n }} steps</option>
      <template v-if="followsPitch(target.spec)"><option v-for="(s, i) in scales" :key="s.name" :value="`scale:${i}`">{{ s.name }}</option></template>
    </select></label>
    <label v-if="link.quantise?.to === 'scale'">on <select class="field" aria-label="Root of the scale" :value="link.quantise.root" @change="doc.edit('Quantise link', updateLink(id, { quantise: { to: 'scale', scale: (link.quantise as { scale: number }).scale, root: number($event) } }))"><option v-for="(n, i) in noteNames" :key="n" :value="i">{{ n }}</option></select></label>
    <template v-if="link.target.lane && link.target.index === undefined">
      <label v-for="k in (['phase', 'rate', 'random'] as const)" :key="k" :title="fanTips[k]">{{ k }} <TextField class="field w-[58px]" type="number" step="0.05" :value="link.fan?.[k] ?? 0" :aria-label="`Fan: ${k}`" @change="doc.edit('Fan link', updateLink(id, { fan: { ...(link.fan ?? { phase: 0, rate: 0, random: 0 }), [k]: number($event) } }))" /></label>
    </template>
    <button class="small-button" title="Shows it among all links" @click="bench.shownLink = id; session.views.go('/links')">In the table</button>
    <button class="small-button" title="Removes the link" @click="doc.edit('Remove link', removeLink(id)); emit('close')">Remove</button>
    <span v-if="bench.feedbackEdges.includes(id)" class="text-magenta" title="What moves it is moved by it in turn">one block late: goes round in a circle</span>
    <p v-if="wrong" role="alert" class="w-full text-magenta">{{ wrong }}</p>
    <!-- an amount, and whether it is on, are gauges: they can be moved by other modulators -->
    <div class="w-full"><GaugeRow :owner="id" param="amount" /><GaugeRow :owner="id" param="on" /></div>
  </div>
</template>
