<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { firstCurve } from '@oleaje/core/modulators/curve'
import { readPoints } from '@oleaje/core/dsp/drawn-shape'
import type { Point } from '@oleaje/core/dsp/drawn-shape'
import {
  type Insertable,
  type Span,
  closeEnds,
  insertShape,
  insertable,
  mirrorHeights,
  mirrorTime,
  repeatCurve,
  scaleHeights,
  thin,
} from '@oleaje/core/project/curve-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { modulatorDefinition, modulators } from '@oleaje/core/modulators/index'
import { addSection } from '@oleaje/core/project/song-edits'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import { newId } from '@oleaje/core/project/new'
import { splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import { ownerName, paramName, pathsOf } from '@oleaje/core/project/targets'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { Popover, PopoverButton, PopoverPanel } from '../ui/parts/popover'
import { beats as beatsSpec, number } from '@oleaje/core/units/parameter'
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import { useFrame } from '../../composables/useFrame'
import { inSteps } from '../../composables/wheel-steps'
import { useSession } from '../../composables/useSession'
import { preference } from '../../stores/preference'
import { type NamedLane, useStretch } from './song-stretch'

/** Along the song: sections, sources, and curve lanes with lengths of their own, drawn and recorded. */
const session = useSession()
const { doc, automation, selection, monitoring, screen, recording } = session
/** The kind of modulator that lies along the song. */
const laneType = modulators.find((d) => d.isLane)?.id ?? ''
/** A curve that the hand or the keys go to: it has the tools, and its trace is shown. */
function chooseLane(id: string): void {
  selected.value = id
  selection.traced = id
  screen.toolLane = null
}
/** Whether the tool line is that of a note lane; else it is that of curves. */
const hasNoteTools = computed(() => !!screen.toolLane && screen.openLines.includes(screen.toolLane))
const toolNames = { points: 'Points', draw: 'Draw', line: 'Line' } as const
const zoom = ref(0)
/** Whether the playhead is kept in sight. */
const follows = preference('timeline-follows', true)
/** Width of the names at the left, in pixels. */
const LEFT = 210
const snap = ref(0.25)
const tool = ref<'points' | 'draw' | 'line'>('points')
const shape = ref<Insertable>('sine')
const periods = ref(4)
const selected = ref<string | null>(null)
const view = ref<HTMLElement | null>(null)
const head = ref<HTMLElement | null>(null)
const rideOf = ref('')
const snaps = [
  { value: 0, text: 'off' },
  { value: 0.25, text: '1/16' },
  { value: 0.5, text: '1/8' },
  { value: 1, text: '1/4' },
  { value: 4, text: 'bar' },
]
const shapes = insertable.map((value) => ({ value, text: value }))
const periodsSpec = number('Number of cycles', { min: 1, max: 64, default: 4, glide: 0 })
/** Stretch over which ends are closed, in beats, and whether that is shown. */
const closing = ref(0.5)
const closingSpec = beatsSpec('Range that joins the ends', { min: 1 / 16, max: 64, default: 0.5 })
const showsClosing = ref(false)

/** Every track that has something along the song, with its curves. */
const rows = computed(() =>
  (doc.project?.tracks ?? [])
    .map((track) => ({ track, curves: track.modulators.filter((m) => modulatorDefinition(m.type)?.isLane) }))
    .filter((r) => r.track.kind === 'track' || r.curves.length > 0),
)
const lanes = computed(() => rows.value.flatMap(({ track, curves }) => curves.map((m) => ({ m, track }))))
const current = computed(() => lanes.value.find((l) => l.m.id === selected.value) ?? lanes.value[0])
/** All lanes from the top down, as far as they are not folded away. */
const namedLanes = computed((): NamedLane[] =>
  rows.value.flatMap(({ track, curves }) => [
    ...(track.kind === 'track'
      ? [{ key: `notes:${track.id}`, name: track.name, lane: { kind: 'notes' as const, track: track.id } }]
      : []),
    ...(screen.foldedTracks.includes(track.id)
      ? []
      : curves.map((m) => {
          return { key: `curve:${m.id}`, name: m.name, lane: { kind: 'curve' as const, modulator: m.id } }
        })),
  ]),
)
const stretch = useStretch(
  session,
  () => namedLanes.value,
  () => snap.value,
)
const spanOf = (key: string): Span | null => (stretch.keys.value.includes(key) ? stretch.span.value : null)
const beats = computed(() =>
  Math.max(
    32,
    doc.project?.loop.end ?? 16,
    ...(doc.project?.sections ?? []).map((s) => s.end),
    ...lanes.value.map((l) => l.m.params.length ?? 16),
    ...(doc.project?.tracks ?? []).map((t) => t.line?.length ?? 0),
  ),
)
const { width } = useElementSize(view)
/** A lane is a picture, and pictures have a widest. */
const WIDEST = 30_000
const perBeat = computed(() =>
  Math.min(WIDEST / beats.value, Math.max(4, (width.value - 212) / beats.value) * 2 ** zoom.value),
)
const pointsOf = (raw: unknown): readonly Point[] => {
  const points = readPoints(raw, 1024)
  return points.length ? points : firstCurve
}

/** Everything on the selected track that a curve can move, macros first. */
const targets = computed(() => {
  const track = selection.track
  if (!track) return []
  const list = (owner: Parameters<typeof pathsOf>[0], id: string) =>
    pathsOf(owner).map((path) => ({
      key: `${id}.${path}`,
      name: `${ownerName(owner)}, ${paramName(owner, path).toLowerCase()}`,
    }))
  return [
    ...track.modulators
      .filter((m) => modulatorDefinition(m.type)?.isMacro)
      .map((m) => ({ key: `${m.id}.value`, name: `${m.name} (macro)` })),
    ...[...nodesIn(heardChain(track).nodes)].flatMap((node) => list({ kind: 'node', node, track }, node.id)),
    ...list({ kind: 'track', track }, track.id),
  ]
})
const targetNames = computed(() => targets.value.map((t) => ({ value: t.key, text: t.name })))
const rideTarget = computed(() =>
  targets.value.some((t) => t.key === rideOf.value) ? rideOf.value : (targets.value[0]?.key ?? ''),
)

function addCurve(): void {
  const track = selection.track
  const [owner, path] = splitGaugeKey(rideTarget.value)
  if (!track) return
  const id = newId()
  const link = owner ? [addLink(id, targetAt(owner, path), 0.2, 0.8)] : []
  doc.edit('Add a curve', together(addModulator(track.id, laneType, { id }), ...link))
  selected.value = id
}

/** Changes the chosen stretch of the chosen curve and of those chosen with it, or all of the one. */
function change(label: string, how: (points: readonly Point[], span: Span, length: number) => Point[]): void {
  const lane = current.value
  if (!lane) return
  const isInStretch = (id: string): boolean => spanOf(`curve:${id}`) !== null
  const all = isInStretch(lane.m.id) ? lanes.value.filter((l) => isInStretch(l.m.id)) : [lane]
  doc.edit(
    label,
    together(
      ...all.map(({ m }) => {
        const length = m.params.length ?? 16
        const { from, to } = spanOf(`curve:${m.id}`) ?? { from: 0, to: length }
        return setData(
          m.id,
          'points',
          how(pointsOf(m.data?.points), { from: Math.min(from, length), to: Math.min(to, length) }, length),
        )
      }),
    ),
  )
}

/**
 * A press with Shift chooses a stretch, from the lane that it is on over those that it is drawn over. Notes
 * that lie open choose among themselves.
 */
function press(e: PointerEvent): void {
  const el = view.value
  if (pan(e)) {
    e.preventDefault()
    e.stopPropagation()
    return
  }
  const key = (e.target as HTMLElement).closest<HTMLElement>('[data-lane]')?.dataset.lane
  if (!el || !key || !e.shiftKey || e.button !== 0 || e.clientX < el.getBoundingClientRect().left + LEFT)
    return
  e.preventDefault()
  e.stopPropagation()
  el.focus({ preventScroll: true })
  if (key.startsWith('curve:')) selected.value = key.slice(6)
  stretch.press(e, key, (x) => (el.scrollLeft + x - el.getBoundingClientRect().left - LEFT) / perBeat.value)
}

function repeat(): void {
  const lane = current.value
  if (!lane) return
  const length = lane.m.params.length ?? 16
  doc.edit(
    'Repeat the curve',
    together(
      setData(lane.m.id, 'points', repeatCurve(pointsOf(lane.m.data?.points), length)),
      setParam(lane.m.id, 'length', length * 2),
    ),
  )
}

function nameLoop(): void {
  const loop = doc.project?.loop
  if (loop)
    doc.edit(
      'Add a section',
      addSection({
        id: newId(),
        name: `Section ${(doc.project?.sections.length ?? 0) + 1}`,
        start: loop.start,
        end: loop.end,
      }),
    )
}

/** The beat that lies at a place of the view. */
const beatUnder = (x: number): number => ((view.value?.scrollLeft ?? 0) + x - LEFT) / perBeat.value
/** As wide as that, with a beat at a place of the view. */
function look(octaves: number, beat: number, x: number): void {
  zoom.value = Math.min(6, Math.max(0, octaves))
  void nextTick(() => {
    if (view.value) view.value.scrollLeft = beat * perBeat.value + LEFT - x
  })
}
/** Wider or narrower about a place of the view, which stays where it is. */
const zoomAt = (by: number, x: number): void => look(zoom.value + by, beatUnder(x), x)
function wheel(e: WheelEvent): void {
  if (!e.ctrlKey && !e.metaKey) return
  e.preventDefault()
  zoomAt(-inSteps(e.deltaY, e.deltaMode) / 2, e.clientX - (view.value?.getBoundingClientRect().left ?? 0))
}
/** Way of a drag up or down that is one octave of zoom, in px. */
const OCTAVE_PX = 90

/**
 * A drag with the middle button takes the view along, both ways. With Ctrl and the first one it takes it
 * along the song, and makes it wider upwards and narrower downwards, about the place that was pressed.
 */
function pan(e: PointerEvent): boolean {
  const el = view.value
  const zooms = e.button === 0 && (e.ctrlKey || e.metaKey)
  if (!el || (!zooms && e.button !== 1)) return false
  const { left } = el.getBoundingClientRect()
  // what was pressed stays under the pointer
  const [before, beat, y] = [zoom.value, beatUnder(e.clientX - left), el.scrollTop + e.clientY]
  followPointer(e, (m) => {
    look(zooms ? before + (e.clientY - m.clientY) / OCTAVE_PX : before, beat, m.clientX - left)
    if (!zooms) el.scrollTop = y - m.clientY
  })
  return true
}
/** Keys of the song itself, where nothing in it has the focus. */
function keydown(e: KeyboardEvent): void {
  const el = view.value
  if (!el || e.target !== el) return
  if (stretch.keydown(e)) {
    e.preventDefault()
    e.stopPropagation()
    return
  }
  const acts: Record<string, () => void> = {
    '+': () => zoomAt(0.5, el.clientWidth / 2),
    '-': () => zoomAt(-0.5, el.clientWidth / 2),
    'ArrowLeft': () => {
      el.scrollLeft -= 120
    },
    'ArrowRight': () => {
      el.scrollLeft += 120
    },
    'Home': () => {
      el.scrollLeft = 0
    },
    'End': () => {
      el.scrollLeft = el.scrollWidth
    },
  }
  const act = acts[e.key]
  if (!act) return
  e.preventDefault()
  e.stopPropagation()
  act()
}

/** Whether the playhead was in sight when it moved last, and how far along the view stood then. */
let [seen, along] = [true, 0]
watch([follows, () => monitoring.playing], () => {
  seen = true
  // what the hand did to the view before this does not count as looking elsewhere
  along = view.value?.scrollLeft ?? 0
})
/** Scrolls with the playhead while it moves, until the hand goes to look elsewhere. */
useFrame(() => {
  const el = view.value
  if (!el) return
  const left = el.scrollLeft
  if (follows.value && monitoring.playing) {
    const x = session.transport.place() * perBeat.value + LEFT
    if (x >= left + LEFT && x <= left + el.clientWidth - 40) seen = true
    else if (left !== along) seen = false
    else if (seen) el.scrollLeft = Math.max(0, x - LEFT - 40)
  }
  along = el.scrollLeft
})
useFrame(() => {
  if (head.value) head.value.style.transform = `translateX(${session.transport.place() * perBeat.value}px)`
})
const addActions = computed(() => [
  [
    {
      text: 'Curve',
      tip: 'Adds a curve for the chosen target',
      disabled: !rideTarget.value,
      run: addCurve,
    },
    { text: 'Section', tip: 'Adds a section from the loop', run: nameLoop },
  ],
])
</script>

<template>
  <section class="flex flex-col bg-paper" aria-label="Timeline">
    <header
      class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-sheet px-4 py-2 text-small"
    >
      <h2 class="panel-title">Timeline</h2>
      <span>of {{ selection.track?.name }}</span>
      <ChoiceField
        class="w-47.5"
        label="Chooses the target of a new curve or ride"
        hide-label
        :model-value="rideTarget"
        :options="targetNames"
        @update:model-value="rideOf = $event"
      />
      <button
        class="plain-button"
        :aria-pressed="!!recording.recordingAutomation"
        :disabled="!rideTarget"
        title="Records its motion while the song plays (W on a gauge)"
        @click="automation.toggle(rideTarget)"
      >
        {{ recording.recordingAutomation ? 'Stop ride' : 'Record ride' }}
      </button>
      <ActionMenu label="Add to the Timeline" tip="Adds a curve or a section" :groups="addActions"
        >Add…</ActionMenu
      >
      <div id="lane-tools" class="w-full" :class="hasNoteTools ? '' : 'hidden'" />
      <div
        v-if="!hasNoteTools"
        class="flex w-full flex-wrap items-center gap-x-3 gap-y-1"
        role="group"
        aria-label="Curve tools"
      >
        <span class="flex items-center gap-1"
          ><button
            v-for="t in ['points', 'draw', 'line'] as const"
            :key="t"
            class="small-button"
            :aria-pressed="tool === t"
            @click="tool = t"
          >
            {{ toolNames[t] }}
          </button></span
        >
        <ChoiceField v-model="snap" label="Snap" tip="Snaps points to this grid" :options="snaps" />
        <span class="flex items-center gap-1">
          <ChoiceField v-model="shape" label="Shape to insert" hide-label :options="shapes" />
          ×
          <ValueField class="w-13" :spec="periodsSpec" :value="periods" @take="periods = $event" />
          <button
            class="small-button"
            title="Fills the selected range, or the whole curve"
            @click="change('Insert shape', (p, s) => insertShape(p, s, shape, periods))"
          >
            Insert
          </button>
        </span>
        <span class="flex items-center gap-1">
          <button
            class="small-button"
            title="Halves the height around the middle"
            @click="change('Scale', (p, s) => scaleHeights(p, s, 0.5))"
          >
            × ½</button
          ><button
            class="small-button"
            title="Doubles the height"
            @click="change('Scale', (p, s) => scaleHeights(p, s, 2))"
          >
            × 2
          </button>
          <button
            class="small-button"
            title="Inverts the curve"
            @click="change('Mirror', (p, s) => mirrorHeights(p, s))"
          >
            Invert</button
          ><button
            class="small-button"
            title="Reverses the curve"
            @click="change('Mirror', (p, s) => mirrorTime(p, s))"
          >
            Reverse
          </button>
          <button class="small-button" title="Doubles the length and repeats the curve" @click="repeat">
            Repeat</button
          ><button
            class="small-button"
            title="Removes points without changing the curve"
            @click="change('Thin', (p) => thin(p, 0.015))"
          >
            Thin
          </button>
          <Popover class="relative">
            <PopoverButton
              class="small-button"
              title="Joins the end to the start over a range that you choose, with a preview"
            >
              Join ends…
            </PopoverButton>
            <PopoverPanel
              v-slot="{ close }"
              class="absolute top-full right-0 z-50 flex items-center gap-2 border border-ink bg-sheet p-2 whitespace-nowrap"
            >
              <label @vue:mounted="showsClosing = true" @vue:unmounted="showsClosing = false"
                >the last
                <ValueField class="w-21" :spec="closingSpec" :value="closing" @take="closing = $event" />
                leads to the start</label
              >
              <button
                class="small-button"
                @click="
                  () => {
                    change('Join ends', (p, _, length) => closeEnds(p, length, closing))
                    close()
                  }
                "
              >
                Close
              </button>
            </PopoverPanel>
          </Popover>
        </span>
      </div>
    </header>
    <div
      ref="view"
      class="min-h-0 flex-1 overflow-auto"
      tabindex="0"
      aria-label="Lanes"
      @wheel="wheel"
      @keydown="keydown"
      @pointerdown.capture="press"
      @mousedown.middle.prevent
    >
      <div class="relative" :style="{ width: `${210 + beats * perBeat}px` }">
        <TimelineRuler :per-beat="perBeat" :beats="beats">
          <span class="flex h-full items-center gap-1 px-1" role="group" aria-label="Zoom"
            ><button
              class="small-button"
              :aria-pressed="follows"
              title="Scrolls with the playhead"
              @click="follows = !follows"
            >
              follow</button
            ><button
              class="small-button"
              aria-label="Zoom out"
              title="Zooms out"
              :disabled="zoom <= 0"
              @click="zoom--"
            >
              −</button
            ><button
              class="small-button"
              aria-label="Zoom in"
              title="Zooms in"
              :disabled="zoom >= 6"
              @click="zoom++"
            >
              +
            </button></span
          >
        </TimelineRuler>
        <SectionRow :per-beat="perBeat" />
        <template v-for="{ track: t, curves } in rows" :key="t.id">
          <TrackRow
            :track="t"
            :per-beat="perBeat"
            :beats="beats"
            :span="spanOf(`notes:${t.id}`)"
            :has-lanes="curves.length > 0 || !!t.takes?.length"
          />
          <NoteLane
            v-if="screen.openLines.includes(t.id)"
            :track="t"
            :per-beat="perBeat"
            :beats="beats"
            :snap="snap"
          />
          <template v-if="!screen.foldedTracks.includes(t.id)">
            <TakeRow v-if="t.takes?.length" :track="t" :per-beat="perBeat" />
            <CurveLane
              v-for="m in curves"
              :key="m.id"
              :modulator="m"
              :track="t"
              :per-beat="perBeat"
              :beats="beats"
              :snap="snap"
              :tool="tool"
              :chosen="current?.m.id === m.id"
              :span="spanOf(`curve:${m.id}`)"
              :closing="showsClosing && current?.m.id === m.id ? closing : null"
              @choose="chooseLane(m.id)"
            />
          </template>
        </template>
        <p v-if="!lanes.length" class="sticky left-0 z-20 w-215 bg-paper p-4">
          <span class="water-name text-heading"> No curves yet.</span>
          Choose a target above, click Add… and choose Curve. Or press W on a gauge while the song plays, move
          it, and press W again.
        </p>
        <div
          ref="head"
          class="pointer-events-none absolute inset-y-0 left-52.5 z-10 w-0.5 bg-ink opacity-70"
          aria-hidden="true"
        />
      </div>
    </div>
    <StretchTools :stretch="stretch" />
  </section>
</template>
