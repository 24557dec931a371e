<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { readPoints } from '@oleaje/core/dsp/drawn-shape'
import { rename } from '@oleaje/core/project/chain-edits'
import { duplicateModulator, removeModulator, setInput, setListens } from '@oleaje/core/project/motion-edits'
import { setData } from '@oleaje/core/project/value-edits'
import { newId } from '@oleaje/core/project/new'
import type { Modulator } from '@oleaje/core/project/schema'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { computed, ref } from 'vue'
import { earOf, earText, earsFor } from '../../composables/ears'
import { pairGauges } from '../../composables/time-pair'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { modulatorSummary } from '../../composables/useSummary'
import { modulatorFace } from '../pictures/index'

/** Gauges that a card shows before all are asked for. */
const COMMON = 4

/** One modulator in its list: badge, name, picture; opened, all that it hears, works on and is set to. */
const props = defineProps<{ modulator: Modulator; lit: boolean }>()
const emit = defineEmits<{ take: []; grab: [e: PointerEvent] }>()
const session = useSession()
const { doc, host, selection, monitoring, screen } = session
const hand = useGesture()
const root = ref<HTMLElement | null>(null)
const m = computed(() => props.modulator)
const definition = computed(() => modulatorDefinition(m.value.type))
const open = computed(() => selection.openModulators.includes(m.value.id))
const others = computed(() =>
  (doc.project?.tracks ?? []).flatMap((t) =>
    t.modulators.filter((x) => x.id !== m.value.id).map((x) => ({ m: x, t })),
  ),
)
const links = computed(() => doc.project?.links.filter((l) => l.source === m.value.id).length ?? 0)
const track = computed(() => doc.project?.tracks.find((t) => t.modulators.some((x) => x.id === m.value.id)))
const tool = ref<'points' | 'draw' | 'line'>('points')
const late = computed(() => monitoring.feedbackEdges.includes(m.value.id))

function copyElsewhere(): void {
  const id = newId()
  doc.edit('Duplicate modulator', duplicateModulator(m.value.id, true, id))
  selection.openModulators = [...selection.openModulators.filter((x) => x !== m.value.id), id]
  selection.inHand = null
  selection.repointing = id
}

/** Escape closes the card, unless it ends linking or learning. */
function closeByKey(e: KeyboardEvent): void {
  if (!open.value || selection.inHand || selection.repointing || selection.learning) return
  e.stopPropagation()
  selection.toggleOpen(m.value.id)
  root.value?.querySelector<HTMLElement>('[aria-expanded]')?.focus()
}

const listen = (value: string): void =>
  doc.edit('Change the followed signal', setListens(m.value.id, earOf(value)))

function input(slot: number, value: string): void {
  const at = value.indexOf('.')
  doc.edit(
    'Change the modulator input',
    setInput(m.value.id, slot, at < 0 ? null : { source: value.slice(0, at), output: value.slice(at + 1) }),
  )
}

const inputValue = (slot: number): string => {
  const i = m.value.inputs[slot]
  return i ? `${i.source}.${i.output}` : ''
}
const set = (param: string): number => m.value.params[param] ?? definition.value?.params[param]?.default ?? 0
/** The connections that it uses with its settings. */
const uses = computed(() => definition.value?.uses?.(set) ?? { listens: true, inputs: true })
const isMoved = (param: string): boolean =>
  doc.project?.links.some((l) => l.target.owner === m.value.id && l.target.param === param) ?? false
const gauges = computed(() =>
  pairGauges(definition.value?.params, Object.keys(definition.value?.params ?? {}), isMoved, set).filter(
    (g) => !!g.pair || (definition.value?.applies?.(g.param, set) ?? true),
  ),
)
const more = ref(false)
/** The common gauges, and what something moves. */
const shownGauges = computed(() =>
  more.value ? gauges.value : gauges.value.filter((g, i) => i < COMMON || isMoved(g.param)),
)

const ears = computed(() => [
  { value: '', text: 'nothing' },
  ...(doc.project ? earsFor(doc.project, track.value?.id) : []),
])
/** Effects with a gate that a modulator can follow. */
const gates = computed(() =>
  (doc.project?.tracks ?? []).flatMap((t) =>
    [...nodesIn(heardChain(t).nodes)].flatMap((n) =>
      n.kind === 'effect'
        ? (effectDefinition(n.type)?.outputs ?? []).map((out) => ({
            value: `${n.id}.${out}`,
            text: `${n.name || effectDefinition(n.type)?.name} ${out}, ${t.name}`,
          }))
        : [],
    ),
  ),
)
const outputs = computed(() => [
  { value: '', text: 'nothing' },
  ...gates.value,
  ...others.value.flatMap((o) => {
    const names = modulatorDefinition(o.m.type)?.outputs ?? []
    return names.map((out) => ({
      value: `${o.m.id}.${out}`,
      text: `${o.m.letter} ${o.m.name}${names.length > 1 ? `, ${out}` : ''}`,
    }))
  }),
])
/** Whether an output is the one that is being linked. */
const isOutput = (name: string): boolean =>
  selection.inHand === m.value.id && (selection.handOutput ?? definition.value?.outputs[0]) === name
const toolTips = {
  points: 'Drags points and bends the segments between them',
  draw: 'Draws freehand',
  line: 'Draws a straight line',
} as const
const acts = computed(() => [
  [
    {
      text: 'Duplicate with links',
      tip: 'Copies the modulator and its links',
      run: () => doc.edit(`Duplicate ${m.value.name}`, duplicateModulator(m.value.id, true)),
    },
    {
      text: 'Duplicate without links',
      tip: 'Copies the modulator alone',
      run: () => doc.edit(`Duplicate ${m.value.name}`, duplicateModulator(m.value.id, false)),
    },
  ],
  [
    {
      text: 'Remove',
      tip: 'Removes the modulator and its links',
      keys: 'Delete',
      run: () => doc.edit(`Remove ${m.value.name}`, removeModulator(m.value.id)),
    },
  ],
])
const drawing = computed(() => definition.value?.draws?.(set) ?? null)
const points = computed(() => {
  const read = drawing.value ? readPoints(m.value.data?.[drawing.value.key], 1024) : []
  return read.length ? read : (drawing.value?.first ?? [])
})
const face = computed(() => modulatorFace(m.value.type))
const summary = computed(() =>
  doc.project && track.value ? modulatorSummary(doc.project, track.value, m.value) : '',
)
</script>

<template>
  <article
    ref="root"
    class="border-b border-line px-2 py-1"
    :class="{ 'bg-shoal': lit || selection.inHand === m.id }"
    @keydown.esc="closeByKey"
    :data-modulator="m.id"
    @pointerenter="selection.pointed = { modulator: m.id }"
    @pointerleave="selection.pointed = null"
  >
    <div class="flex items-center gap-2">
      <button
        class="touch-none"
        :class="{ 'outline-2 outline-magenta rounded-full': selection.inHand === m.id }"
        :title="`Links ${m.name}: click, then drag on a gauge; or drag this badge onto a gauge or an effect (G, ${m.letter})`"
        :aria-label="`Link ${m.name}`"
        :aria-pressed="selection.inHand === m.id"
        @click="emit('take')"
        @pointerdown="emit('grab', $event)"
      >
        <Badge :letter="m.letter || '·'" :hue="m.hue" />
      </button>
      <button
        class="min-w-0 flex-1 text-left"
        title="Opens or closes the controls"
        :aria-expanded="open"
        @click="
          () => {
            selection.toggleOpen(m.id)
            selection.traced = m.id
          }
        "
      >
        <span class="water-name block truncate text-large leading-tight">{{ m.name }}</span>
        <span class="block truncate text-tiny text-second">{{ summary }}</span>
      </button>
      <MatterMark :of="m.id" />
      <LockMark :of="m.id" :name="m.name" />
      <ModulatorTrace :modulator="m" />
    </div>
    <p v-if="late" class="text-tiny text-magenta" title="This modulator is moved by something that it moves">
      feedback: one block (2.7 ms) late
    </p>
    <div v-if="open" class="mt-1 border-l-2 pl-2" :style="{ borderColor: `var(--hue-${m.hue})` }">
      <div
        v-if="(definition?.outputs.length ?? 0) > 1 && !definition?.movesSnapshots"
        class="flex flex-wrap items-center gap-1 py-1 text-small"
        role="group"
        aria-label="Output to link"
      >
        Output
        <button
          v-for="o in definition?.outputs"
          :key="o"
          class="segment"
          :class="isOutput(o) ? 'bg-ink text-paper' : 'bg-sheet'"
          :aria-pressed="isOutput(o)"
          :title="`Links the output ${o}`"
          @click="
            () => {
              selection.inHand = m.id
              selection.handOutput = o
            }
          "
        >
          {{ o }}
        </button>
      </div>
      <ChoiceField
        v-if="definition?.listens && uses.listens"
        class="py-1 text-small"
        label="Listens to"
        tip="Chooses the signal that it follows"
        :model-value="earText(m.listens)"
        :options="ears"
        @update:model-value="listen"
      />
      <template v-if="uses.inputs">
        <ChoiceField
          v-for="(slot, k) in definition?.inputs"
          :key="slot"
          class="py-1 text-small"
          :label="slot"
          tip="Chooses the signal that it works on"
          :model-value="inputValue(k)"
          :options="outputs"
          @update:model-value="input(k, $event)"
        />
      </template>
      <component :is="face.editor" v-if="face.editor" :modulator="m" />
      <template v-if="drawing">
        <div class="flex gap-1 py-1" role="group" aria-label="Tool">
          <button
            v-for="k in ['points', 'draw', 'line'] as const"
            :key="k"
            class="segment flex-none px-2"
            :class="tool === k ? 'bg-ink text-paper' : 'bg-sheet'"
            :title="toolTips[k]"
            :aria-pressed="tool === k"
            @click="tool = k"
          >
            {{ k }}
          </button>
          <button
            v-if="definition?.isLane"
            class="ml-auto underline"
            title="Opens the Timeline, which has all curve tools"
            @click="session.views.go('/timeline')"
          >
            Timeline
          </button>
        </div>
        <CurveEditor
          class="h-18 border border-line"
          :points="points"
          :length="drawing.length"
          :hue="m.hue"
          :name="m.name"
          :snap="drawing.snap"
          :grid="drawing.grid"
          :tool="tool"
          :playhead="() => host.telemetry.get(`read:mod:${m.id}:${drawing?.readout}`, NaN)"
          @begin="hand.begin('Draw the curve')"
          @end="hand.end()"
          @change="hand.edit('Draw the curve', setData(m.id, drawing.key, $event))"
        />
      </template>
      <MiniGauge v-for="g in shownGauges" :key="g.param" :owner="m.id" :param="g.param" :pair="g.pair" />
      <div class="flex flex-wrap items-center gap-1 py-1">
        <button
          v-if="gauges.length > COMMON"
          class="small-button"
          :aria-expanded="more"
          title="Shows all controls, or the common ones"
          @click="more = !more"
        >
          {{ more ? 'Fewer' : `${gauges.length - COMMON} more` }}
        </button>
        <button
          class="small-button"
          :title="`Lists the ${links} links of this modulator`"
          @click="
            () => {
              screen.shownMacro = m.id
              screen.dialog = 'macro'
            }
          "
        >
          {{ links }} link{{ links === 1 ? '' : 's' }}
        </button>
        <button
          class="small-button"
          :aria-pressed="monitoring.alone === m.id"
          title="Solos this modulator: the others stand still. Does not affect renders. (O)"
          @click="monitoring.alone = monitoring.alone === m.id ? null : m.id"
        >
          Solo
        </button>
        <button
          class="small-button"
          title="Copies the modulator; its links go to the gauge that you click next"
          @click="copyElsewhere"
        >
          Copy to…
        </button>
        <ActionMenu
          class="ml-auto"
          small
          :label="`Actions for ${m.name}`"
          tip="Copy or remove the modulator"
          :groups="acts"
        />
      </div>
      <TextField
        v-if="more"
        class="field water-name w-full"
        :value="m.name"
        aria-label="Modulator name"
        @change="doc.edit('Rename', rename(m.id, ($event.target as HTMLInputElement).value))"
        @keydown.stop
      />
    </div>
  </article>
</template>
