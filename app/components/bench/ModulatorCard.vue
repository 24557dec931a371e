<script setup lang="ts">
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { readPoints } from '@oleaje/core/dsp/drawn-shape'
import { rename } from '@oleaje/core/project/chain-edits'
import { duplicateModulator, removeModulator, setInput, setListens } from '@oleaje/core/project/motion-edits'
import { setData } from '@oleaje/core/project/value-edits'
import { newId } from '@oleaje/core/project/new'
import type { Modulator } from '@oleaje/core/project/schema'
import { computed, ref } from 'vue'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { modulatorSummary } from '../../composables/useSummary'
import { modulatorFace } from '../pictures/index'

/** One modulator in its list: badge, name, picture; opened, all that it hears, works on and is set to. */
const props = defineProps<{ modulator: Modulator, lit: boolean }>()
const emit = defineEmits<{ take: [], grab: [e: PointerEvent] }>()
const session = useSession()
const { doc, bench, host } = session
const hand = useGesture()
const m = computed(() => props.modulator)
const definition = computed(() => modulatorDefinition(m.value.type))
const open = computed(() => bench.openModulators.includes(m.value.id))
const others = computed(() => (doc.project?.tracks ?? []).flatMap((t) => t.modulators.filter((x) => x.id !== m.value.id).map((x) => ({ m: x, t }))))
const links = computed(() => doc.project?.links.filter((l) => l.source === m.value.id).length ?? 0)
const track = computed(() => doc.project?.tracks.find((t) => t.modulators.some((x) => x.id === m.value.id)))
const tool = ref<'points' | 'draw' | 'line'>('points')
const late = computed(() => bench.feedbackEdges.includes(m.value.id))

function copyElsewhere(): void {
  const id = newId()
  doc.edit('Duplicate modulator', duplicateModulator(m.value.id, true, id))
  bench.openModulators = [...bench.openModulators.filter((x) => x !== m.value.id), id]
  bench.inHand = null
  bench.repointing = id
}

function listen(value: string): void {
  const [track, point] = value.split(':')
  doc.edit('Change what it follows', setListens(m.value.id, track ? { track, point: point === 'after' ? 'after' : 'before' } : null))
}

function input(slot: number, value: string): void {
  const at = value.indexOf('.')
  doc.edit('Change what it works on', setInput(m.value.id, slot, at < 0 ? null : { source: value.slice(0, at), output: value.slice(at + 1) }))
}

const inputValue = (slot: number): string => {
  const i = m.value.inputs[slot]
  return i ? `${i.source}.${i.output}` : ''
}
const set = (param: string): number => m.value.params[param] ?? definition.value?.params[param]?.default ?? 0
/** What of its connections do something as it is set. */
const uses = computed(() => definition.value?.uses?.(set) ?? { listens: true, inputs: true })
const gauges = computed(() => Object.keys(definition.value?.params ?? {}).filter((k) => definition.value?.applies?.(k, set) ?? true))
const drawing = computed(() => definition.value?.draws?.(set) ?? null)
const points = computed(() => {
  const read = drawing.value ? readPoints(m.value.data?.[drawing.value.key], 1024) : []
  return read.length ? read : drawing.value?.first ?? []
})
const face = computed(() => modulatorFace(m.value.type))
const summary = computed(() => (doc.project && track.value ? modulatorSummary(doc.project, track.value, m.value) : ''))
</script>

<template>
  <article class="border-b border-line px-2 py-[6px]" :class="{ 'bg-shoal': lit || bench.inHand === m.id }" @pointerenter="bench.pointed = { modulator: m.id }" @pointerleave="bench.pointed = null">
    <div class="flex items-center gap-2">
      <button :title="`Take ${m.name} in hand (G, ${m.letter}), or drag it onto a gauge or an effect`" :aria-label="`Take ${m.name} in hand`" :aria-pressed="bench.inHand === m.id" class="touch-none" :class="{ 'outline-2 outline-magenta rounded-full': bench.inHand === m.id }" @click="emit('take')" @pointerdown="emit('grab', $event)">
        <Badge :letter="m.letter || '·'" :hue="m.hue" />
      </button>
      <button class="min-w-0 flex-1 text-left" :aria-expanded="open" @click="bench.toggleOpen(m.id); bench.traced = m.id">
        <span class="water-name block truncate text-[16px] leading-tight">{{ m.name }}</span>
        <span class="block truncate text-[12px] text-second">{{ summary }}</span>
      </button>
      <ModulatorTrace :modulator="m" />
    </div>
    <p v-if="late" class="text-[12px] text-magenta" title="What it moves moves it in turn">one block late: goes round in a circle</p>
    <div v-if="open" class="mt-1 border-l-2 pl-2" :style="{ borderColor: `var(--hue-${m.hue})` }">
      <div v-if="(definition?.outputs.length ?? 0) > 1" class="flex flex-wrap items-center gap-1 py-1 text-[13px]" role="group" aria-label="Output to link from">
        links from
        <button v-for="o in definition?.outputs" :key="o" class="small-button" :aria-pressed="(bench.inHand === m.id ? bench.handOutput ?? definition?.outputs[0] : null) === o" :title="`Takes ${o} in hand`" @click="bench.inHand = m.id; bench.handOutput = o">{{ o }}</button>
      </div>
      <label v-if="definition?.listens && uses.listens" class="flex items-center gap-2 py-1 text-[13px]">hears
        <select class="field min-w-0 flex-1" :value="m.listens ? `${m.listens.track}:${m.listens.point}` : ''" @change="listen(($event.target as HTMLSelectElement).value)">
          <option value="">nothing</option>
          <template v-for="t in doc.project?.tracks" :key="t.id"><option :value="`${t.id}:before`">{{ t.name }}, before</option><option :value="`${t.id}:after`">{{ t.name }}, after</option></template>
        </select>
      </label>
      <template v-if="uses.inputs">
        <label v-for="(slot, k) in definition?.inputs" :key="slot" class="flex items-center gap-2 py-1 text-[13px]"><span class="w-[46px]">{{ slot }}</span>
          <select class="field min-w-0 flex-1" :value="inputValue(k)" :aria-label="`${slot} of ${m.name}`" @change="input(k, ($event.target as HTMLSelectElement).value)">
            <option value="">nothing</option>
            <template v-for="o in others" :key="o.m.id"><option v-for="out in modulatorDefinition(o.m.type)?.outputs" :key="out" :value="`${o.m.id}.${out}`">{{ o.m.letter }} {{ o.m.name }}{{ (modulatorDefinition(o.m.type)?.outputs.length ?? 1) > 1 ? `, ${out}` : '' }}</option></template>
          </select>
        </label>
      </template>
      <component :is="face.editor" v-if="face.editor" :modulator="m" />
      <template v-if="drawing">
        <div class="flex gap-1 py-1" role="group" aria-label="Tool"><button v-for="k in (['points', 'draw', 'line'] as const)" :key="k" class="small-button" :aria-pressed="tool === k" @click="tool = k">{{ k }}</button><button v-if="definition?.isLane" class="small-button ml-auto" title="All tools for curves are on the Timeline" @click="session.views.go('/timeline')">Timeline</button></div>
        <CurveEditor
          class="h-[72px] border border-line"
          :points="points" :length="drawing.length" :hue="m.hue" :name="m.name" :snap="drawing.snap" :grid="drawing.grid" :tool="tool"
          :playhead="() => host.telemetry.get(`read:mod:${m.id}:${drawing?.readout}`, NaN)"
          @begin="hand.begin('Draw the curve')" @end="hand.end()" @change="hand.edit('Draw the curve', setData(m.id, drawing.key, $event))"
        />
      </template>
      <MiniGauge v-for="k in gauges" :key="k" :owner="m.id" :param="k" />
      <div class="flex flex-wrap gap-1 py-1">
        <TextField class="field water-name w-full" :value="m.name" aria-label="Name of the modulator" @change="doc.edit('Rename', rename(m.id, ($event.target as HTMLInputElement).value))" @keydown.stop />
        <button class="small-button" title="A copy with the same links" @click="doc.edit('Duplicate modulator', duplicateModulator(m.id, true))">Copy with links</button>
        <button class="small-button" title="A copy with the same links, which then go to the gauge that you press" @click="copyElsewhere">Copy, point elsewhere</button>
        <button class="small-button" title="A copy that moves nothing yet" @click="doc.edit('Duplicate modulator', duplicateModulator(m.id, false))">Copy</button>
        <button class="small-button" :aria-pressed="bench.alone === m.id" title="Hears it alone; the others stand still (O). Not part of a render" @click="bench.alone = bench.alone === m.id ? null : m.id">Alone</button>
        <button class="small-button" :title="`Its ${links} links in the table`" @click="bench.shownMacro = m.id; bench.dialog = 'macro'">{{ links }} link{{ links === 1 ? '' : 's' }}</button>
        <button class="small-button" @click="doc.edit(`Remove ${m.name}`, removeModulator(m.id))">Remove</button>
      </div>
    </div>
  </article>
</template>
