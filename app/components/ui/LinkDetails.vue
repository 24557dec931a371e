<script setup lang="ts">
import { removeLink, setLinkMode, updateLink } from '@oleaje/core/project/motion-edits'
import type { Quantise } from '@oleaje/core/project/schema'
import { findTarget, followsPitch, linkValues } from '@oleaje/core/project/targets'
import { isStepped } from '@oleaje/core/units/parameter'
import { formatValue } from '@oleaje/core/units/text'
import { noteNames, scales } from '@oleaje/core/units/tuning'
import { computed } from 'vue'
import { linkModes, linkSpecs, typeEnds } from '../../composables/useLink'
import { useSession } from '../../composables/useSession'

/** Everything about one link, typed in the target's own units. */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const { doc, monitoring, screen } = session

const link = computed(() => doc.project?.links.find((l) => l.id === props.id))
const target = computed(() =>
  doc.project && link.value ? findTarget(doc.project, link.value.target) : undefined,
)
const modulator = computed(() =>
  doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === link.value?.source),
)
const ends = computed(() =>
  link.value && target.value
    ? linkValues({ ...link.value, amount: 1 }, target.value.spec, target.value.base)
    : { from: 0, to: 0 },
)
const show = (v: number): string => (target.value ? formatValue(target.value.spec, v) : '')
const isContinuous = computed(() => !!target.value && !isStepped(target.value.spec))

const fanTips = {
  phase: 'Phase difference between the first and the last item, in cycles',
  rate: 'Speed difference between the first and the last item, in octaves',
  random: 'Random variation per item',
}
const noFan = { phase: 0, rate: 0, random: 0 }

const figures = [
  { key: 'curve', text: 'Bend', spec: linkSpecs.curve, edit: 'Bend link' },
  { key: 'slewUp', text: 'Slew up', spec: linkSpecs.slew, edit: 'Set slew' },
  { key: 'slewDown', text: 'Slew down', spec: linkSpecs.slew, edit: 'Set slew' },
] as const

const modes = computed(
  () =>
    [
      { value: 'floating', text: linkModes.floating },
      { value: 'fixed', text: linkModes.fixed },
      ...(target.value && followsPitch(target.value.spec) ? [{ value: 'pitch', text: 'pitch' }] : []),
    ] as { value: 'floating' | 'fixed' | 'pitch'; text: string }[],
)
const laws: { value: 'scale' | 'unit'; text: string }[] = [
  { value: 'scale', text: 'as on gauge' },
  { value: 'unit', text: 'linear in unit' },
]
const steps = computed(() => [
  { value: '', text: 'off' },
  ...[2, 3, 4, 6, 8, 12, 16, 24].map((n) => ({ value: `steps:${n}`, text: `${n} steps` })),
  ...(target.value && followsPitch(target.value.spec)
    ? scales.map((s, i) => ({ value: `scale:${i}`, text: s.name }))
    : []),
])
const roots = noteNames.map((text, value) => ({ value, text }))

const quantiseKey = (q: Quantise | null): string =>
  !q ? '' : q.to === 'steps' ? `steps:${q.steps}` : `scale:${q.scale}`
function quantiseFrom(key: string, before: Quantise | null): Quantise | null {
  const [to, n] = key.split(':')
  if (to === 'steps') return { to: 'steps', steps: Number(n) }
  return to === 'scale'
    ? { to: 'scale', scale: Number(n), root: before?.to === 'scale' ? before.root : 2 }
    : null
}
function setRoot(root: number): void {
  const q = link.value?.quantise
  if (q?.to === 'scale') doc.edit('Quantise link', updateLink(props.id, { quantise: { ...q, root } }))
}
</script>

<template>
  <div
    v-if="link && target"
    class="my-1 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-2 bg-shoal px-2 py-1 text-small"
    :style="{ borderColor: `var(--hue-${modulator?.hue ?? 0})` }"
    @keydown.esc.stop="emit('close')"
    @keydown.stop
  >
    <span class="water-name">{{ modulator?.name }}</span>
    <label v-for="end in ['from', 'to'] as const" :key="end">
      {{ end === 'from' ? 'minimum' : 'maximum' }}
      <TypedField
        class="w-21"
        :value="show(ends[end])"
        :label="end === 'from' ? 'minimum' : 'maximum'"
        :take="(text: string) => typeEnds(session, [id], end, text)"
      />
    </label>
    <ChoiceField
      v-if="isContinuous"
      label="Range"
      tip="Follows base: the range moves with the base value. Absolute: it stays. Pitch: it follows the note one-to-one."
      :model-value="link.mode"
      :options="modes"
      @update:model-value="doc.edit('Change link mode', setLinkMode(id, $event))"
    />
    <ChoiceField
      v-if="link.mode !== 'pitch' && isContinuous && target.spec.law !== 'linear'"
      label="Law"
      tip="How the range is divided: as on the gauge, or linear in its unit"
      :model-value="link.law"
      :options="laws"
      @update:model-value="doc.edit('Change link law', updateLink(id, { law: $event }))"
    />
    <label v-if="link.mode === 'pitch'">
      Transpose
      <ValueField
        class="w-15.5"
        :spec="linkSpecs.transpose"
        :value="link.transpose"
        @take="doc.edit('Transpose link', updateLink(id, { transpose: $event }))"
      />
    </label>
    <label v-for="f in figures" :key="f.key"
      >{{ f.text }}
      <ValueField
        :class="f.key === 'curve' ? 'w-15.5' : 'w-17'"
        :spec="f.spec"
        :value="link[f.key]"
        @take="doc.edit(f.edit, updateLink(id, { [f.key]: $event }))"
    /></label>
    <ChoiceField
      v-if="isContinuous"
      label="Quantise"
      tip="Quantises the motion to steps or to a scale"
      :model-value="quantiseKey(link.quantise)"
      :options="steps"
      @update:model-value="
        doc.edit('Quantise link', updateLink(id, { quantise: quantiseFrom($event, link.quantise) }))
      "
    />
    <ChoiceField
      v-if="link.quantise?.to === 'scale'"
      label="Root"
      tip="Root of the scale"
      :model-value="link.quantise.root"
      :options="roots"
      @update:model-value="setRoot"
    />
    <template v-if="link.target.lane && link.target.index === undefined">
      <label v-for="k in ['phase', 'rate', 'random'] as const" :key="k" :title="fanTips[k]">
        {{ k }}
        <ValueField
          class="w-15.5"
          :spec="linkSpecs.fan[k]"
          :value="link.fan?.[k] ?? 0"
          @take="doc.edit('Fan link', updateLink(id, { fan: { ...(link.fan ?? noFan), [k]: $event } }))"
        />
      </label>
    </template>
    <button
      class="small-button"
      title="Shows the link in the table of all links"
      @click="
        () => {
          screen.shownLink = id
          session.views.go('/links')
        }
      "
    >
      In table
    </button>
    <button
      class="small-button"
      title="Removes the link"
      @click="
        () => {
          doc.edit('Remove link', removeLink(id))
          emit('close')
        }
      "
    >
      Remove
    </button>
    <span
      v-if="monitoring.feedbackEdges.includes(id)"
      class="text-magenta"
      title="This modulator is moved by something that it moves"
      >feedback: one block (2.7 ms) late</span
    >
    <!-- an amount, and whether it is on, are gauges: they can be moved by other modulators -->
    <div class="w-full"><GaugeRow :owner="id" param="amount" /><GaugeRow :owner="id" param="on" /></div>
  </div>
</template>
