<script setup lang="ts">
import {
  addNotes,
  editLine,
  emptyLine,
  moveNotes,
  removeNotes,
  setVelocities,
  stretchNotes,
  toggleStep,
  trimNotes,
} from '@oleaje/core/project/note-edits'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { computed, ref, watch, onMounted } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useArpeggioGhosts } from '../../composables/useArpeggioGhosts'
import { useSession } from '../../composables/useSession'
import { useRoll } from '../../composables/useRoll'
import NoteTools from './NoteTools.vue'
import { hasPads, isInScale, noteAt, noteInWords, rowsOf } from './note-grid'

/**
 * The notes of a track along the song: a roll of keys, or a grid of steps for pads; velocities, bend or
 * pressure beneath.
 */
const props = defineProps<{ track: Track; perBeat: number; beats: number; snap: number }>()
const { doc, host, notices, preferences, screen } = useSession()
// the lane that was opened last has the tools
onMounted(() => {
  screen.toolLane = props.track.id
})
const hand = useGesture()
const lane = ref<HTMLElement | null>(null)
const tools = ref<InstanceType<typeof NoteTools> | null>(null)
const chosen = ref<ReadonlySet<number>>(new Set())
const beneath = ref<'velocity' | 'bend' | 'pressure'>('velocity')
const scale = ref({ root: 0, scale: 0 })
/** Where Enter puts a note, and the row it goes to. */
const cursor = ref({ beat: 0, pitch: 60 })
const marquee = ref<{ x0: number; y0: number; x1: number; y1: number } | null>(null)

const line = computed<NoteLine>(() => props.track.line ?? emptyLine(loopLength.value))
const loopLength = computed(() => Math.max(1, (doc.project?.loop.end ?? 16) - (doc.project?.loop.start ?? 0)))
const isKit = computed(() => hasPads(props.track))
const rows = computed(() => rowsOf(props.track))
/** Beats of one step: what is snapped to, or a sixteenth where nothing is. */
const grid = computed(() => props.snap || 0.25)
const ghosts = useArpeggioGhosts(() => props.track)
const BENEATH = 46
const keys = ref<HTMLElement | null>(null)
const roll = useRoll(
  keys,
  rows,
  () => ({
    height: preferences.laneHeights[`notes:${props.track.id}`],
    row: isKit.value ? 22 : 9,
    pitches: [...line.value.notes, ...ghosts.value].map((n) => n.pitch),
  }),
  BENEATH,
)
const { top, rowHeight, height } = roll
const snapped = (beat: number, free: boolean): number =>
  props.snap > 0 && !free ? Math.floor(beat / props.snap + 1e-6) * props.snap : beat
watch(
  () => props.track.line?.notes.length,
  (n = 0) => {
    if ([...chosen.value].some((i) => i >= n)) chosen.value = new Set()
  },
)

/** A change of the notes, as a step of its own or as part of a gesture. */
const change = (label: string, how: (line: NoteLine) => NoteLine): void =>
  hand.edit(label, editLine(props.track.id, how, loopLength.value))
const hear = (pitch: number): void => {
  host.note(props.track.id, pitch, 0.8)
  setTimeout(() => host.note(props.track.id, pitch, 0), 180)
}

const canvas = useCanvas(({ g, width, height: h, color, still }) => {
  const { perBeat, beats } = props
  const { value: l } = line
  still(
    [
      ...[l, rows.value, perBeat, beats, chosen.value, grid.value, scale.value, beneath.value, width],
      ...[top.value, rowHeight.value, height.value, ghosts.value],
    ],
    (ground) => {
      const bar = doc.project?.beatsPerBar ?? 4
      ground.save()
      ground.beginPath()
      ground.rect(0, 0, width, height.value)
      ground.clip()
      rows.value.forEach((row, i) => {
        const y = roll.yOf(i)
        if (y > height.value || y + rowHeight.value < 0) return
        ground.fillStyle = color(row.isBlack ? 'shoal' : 'sheet')
        ground.globalAlpha = isInScale(row.pitch, scale.value.root, scale.value.scale) ? 1 : 0.35
        ground.fillRect(0, y, width, rowHeight.value - 1)
        ground.globalAlpha = 1
      })
      let step = grid.value
      while (step * perBeat < 6) step *= 2
      for (let b = 0; b <= beats + 1e-6; b += step) {
        ground.fillStyle = color(Math.abs(b / bar - Math.round(b / bar)) < 1e-6 ? 'second' : 'line')
        ground.globalAlpha = Math.abs(b - Math.round(b)) < 1e-6 ? 0.8 : 0.35
        ground.fillRect(Math.round(b * perBeat), 0, 1, height.value)
      }
      ground.globalAlpha = 1
      ground.strokeStyle = color('second')
      for (const n of ghosts.value) {
        const row = roll.rowOf(n.pitch)
        if (row >= 0)
          ground.strokeRect(
            n.start * perBeat + 0.5,
            roll.yOf(row) + 0.5,
            Math.max(3, n.length * perBeat - 2),
            rowHeight.value - 2,
          )
      }
      const rounds = l.length > 0 ? Math.min(64, Math.ceil(beats / l.length)) : 1
      for (let r = rounds - 1; r >= 0; r--) {
        l.notes.forEach((n, i) => {
          const row = roll.rowOf(n.pitch)
          if (row < 0 || (l.length > 0 && n.start >= l.length)) return
          const x = (n.start + r * l.length) * perBeat
          // what repeats is drawn behind, and cannot be taken hold of
          ground.globalAlpha = r > 0 ? 0.25 : 0.35 + 0.65 * n.velocity
          ground.fillStyle = color(r === 0 && chosen.value.has(i) ? 'magenta' : 'deep')
          ground.fillRect(x, roll.yOf(row), Math.max(3, n.length * perBeat - 1), rowHeight.value - 1)
        })
      }
      ground.globalAlpha = 1
      if (l.length > 0) {
        ground.fillStyle = color('ink')
        ground.fillRect(Math.round(l.length * perBeat) - 1, 0, 2, height.value)
      }
      ground.restore()
      if (beneath.value !== 'velocity') return
      l.notes.forEach((n, i) => {
        if (l.length > 0 && n.start >= l.length) return
        ground.fillStyle = color(chosen.value.has(i) ? 'magenta' : 'deep')
        ground.fillRect(n.start * perBeat, h - n.velocity * (BENEATH - 6), 4, n.velocity * (BENEATH - 6))
      })
    },
  )
  const row = roll.rowOf(cursor.value.pitch)
  if (document.activeElement === lane.value && row >= 0 && roll.isInView(row)) {
    g.strokeStyle = color('ink')
    g.lineWidth = 1.5
    g.strokeRect(
      cursor.value.beat * perBeat + 0.5,
      roll.yOf(row) + 0.5,
      Math.max(4, grid.value * perBeat - 1),
      rowHeight.value - 2,
    )
  }
  const m = marquee.value
  if (m) {
    g.strokeStyle = color('ink')
    g.setLineDash([3, 3])
    g.strokeRect(Math.min(m.x0, m.x1), Math.min(m.y0, m.y1), Math.abs(m.x1 - m.x0), Math.abs(m.y1 - m.y0))
    g.setLineDash([])
  }
})

/** Place of a pointer: beat, key, and how far down. */
function placeOf(e: PointerEvent, box: DOMRect): { beat: number; pitch: number; x: number; y: number } {
  const [x, y] = [e.clientX - box.left, e.clientY - box.top]
  return { beat: Math.max(0, x / props.perBeat), pitch: roll.pitchAt(y), x, y }
}

function press(e: PointerEvent): void {
  const el = e.currentTarget as HTMLElement
  if (e.button !== 0) return
  lane.value?.focus({ preventScroll: true })
  const box = el.getBoundingClientRect()
  const at = placeOf(e, box)
  cursor.value = { beat: snapped(at.beat, false), pitch: at.pitch }
  if (at.y > height.value) return velocities(e, box)
  if (isKit.value && !e.shiftKey) return steps(e, box)
  const found = noteAt(line.value, at.beat, at.pitch, 3 / props.perBeat)
  if (found >= 0) return take(e, box, found)
  if (e.shiftKey) return mark(e, box)
  draw(e, box)
}

/** On steps: what the first one becomes, all that are passed become. */
function steps(e: PointerEvent, box: DOMRect): void {
  const start = placeOf(e, box)
  const there = (beat: number, pitch: number): boolean =>
    line.value.notes.some(
      (n) => Math.round(n.pitch) === pitch && n.start >= beat - 1e-6 && n.start < beat + grid.value - 1e-6,
    )
  const cell = (beat: number): number => Math.floor(beat / grid.value + 1e-6) * grid.value
  const clears = there(cell(start.beat), start.pitch)
  const passed = new Set<string>()
  const move = (m: PointerEvent): void => {
    const at = placeOf(m, box)
    const beat = cell(at.beat)
    if (line.value.length > 0 && beat >= line.value.length) return
    const key = `${beat}/${at.pitch}`
    if (passed.has(key) || there(beat, at.pitch) !== clears) return
    passed.add(key)
    change('Set steps', (l) => toggleStep(l, at.pitch, beat, grid.value, 0.8))
    if (!clears) hear(at.pitch)
  }
  hand.drag(e, 'Set steps', move)
  move(e)
}

/** A new note, as long as it is drawn. */
function draw(e: PointerEvent, box: DOMRect): void {
  const start = placeOf(e, box)
  const beat = snapped(start.beat, e.altKey)
  const index = line.value.notes.length
  hand.drag(e, 'Draw note', (m) => {
    const end = placeOf(m, box).beat
    const length =
      props.snap > 0 && !m.altKey
        ? Math.max(props.snap, Math.ceil((end - beat) / props.snap - 1e-6) * props.snap)
        : Math.max(1 / 32, end - beat)
    change('Draw note', (l) => ({
      ...l,
      notes: l.notes.map((n, i) => (i === index ? { ...n, length } : n)),
    }))
  })
  change('Draw note', (l) =>
    addNotes(l, [{ start: beat, length: grid.value, pitch: start.pitch, velocity: 0.8 }]),
  )
  chosen.value = new Set([index])
  hear(start.pitch)
}

/** A note in the hand: its ends make it longer, the rest moves it and all that are chosen. */
function take(e: PointerEvent, box: DOMRect, index: number): void {
  const note = line.value.notes[index]
  if (!note) return
  if (e.shiftKey) {
    const next = new Set(chosen.value)
    if (!next.delete(index)) next.add(index)
    chosen.value = next
    return
  }
  if (!chosen.value.has(index)) chosen.value = new Set([index])
  const of = chosen.value
  const start = placeOf(e, box)
  const before = line.value
  const edge = Math.min(6 / props.perBeat, note.length / 3)
  const way =
    start.beat > note.start + note.length - edge
      ? 'end'
      : start.beat < note.start + edge && note.length * props.perBeat > 18
        ? 'start'
        : 'move'
  const label = way === 'end' ? 'Lengthen notes' : way === 'start' ? 'Trim notes' : 'Move notes'
  let heard = start.pitch
  hand.drag(e, label, (m) => {
    const at = placeOf(m, box)
    const raw = at.beat - start.beat
    const by = props.snap > 0 && !m.altKey ? Math.round(raw / props.snap) * props.snap : raw
    change(label, () =>
      way === 'end'
        ? stretchNotes(before, of, by)
        : way === 'start'
          ? trimNotes(before, of, by)
          : moveNotes(before, of, by, at.pitch - start.pitch),
    )
    if (way === 'move' && at.pitch !== heard) hear((heard = at.pitch))
  })
}

function mark(e: PointerEvent, box: DOMRect): void {
  const start = placeOf(e, box)
  hand.drag(
    e,
    'Select notes',
    (m) => {
      const at = placeOf(m, box)
      marquee.value = { x0: start.x, y0: start.y, x1: at.x, y1: at.y }
      const [from, to] = [Math.min(start.beat, at.beat), Math.max(start.beat, at.beat)]
      const [low, high] = [Math.min(start.pitch, at.pitch), Math.max(start.pitch, at.pitch)]
      chosen.value = new Set(
        line.value.notes.flatMap((n, i) =>
          n.start < to && n.start + n.length > from && n.pitch >= low - 0.5 && n.pitch <= high + 0.5
            ? [i]
            : [],
        ),
      )
    },
    () => {
      marquee.value = null
    },
  )
}

/** Bars of velocity: those under the pointer, or of them the chosen ones. */
function velocities(e: PointerEvent, box: DOMRect): void {
  if (beneath.value !== 'velocity') return
  const move = (m: PointerEvent): void => {
    const at = placeOf(m, box)
    const value = Math.min(1, Math.max(1 / 127, (box.bottom - m.clientY) / (BENEATH - 6)))
    const near = line.value.notes.flatMap((n, i) =>
      Math.abs(n.start - at.beat) * props.perBeat < 6 ? [i] : [],
    )
    const some = chosen.value.size ? near.filter((i) => chosen.value.has(i)) : near
    if (some.length) change('Set velocities', (l) => setVelocities(l, new Set(some), () => value))
  }
  hand.drag(e, 'Set velocities', move)
  move(e)
}

function doubleClick(e: MouseEvent): void {
  if (isKit.value) return
  const at = placeOf(e as PointerEvent, (e.currentTarget as HTMLElement).getBoundingClientRect())
  const found = noteAt(line.value, at.beat, at.pitch, 3 / props.perBeat)
  if (found < 0) return
  hand.cancel()
  change('Remove note', (l) => removeNotes(l, new Set([found])))
  chosen.value = new Set()
}

/**
 * Everything by keys: arrows move the place, or the notes that are chosen; Enter sets a note or a step; comma
 * and full stop go along the notes. What was copied is put at the place.
 */
function keydown(e: KeyboardEvent): void {
  const { value: of } = chosen
  const some = of.size > 0
  const step = e.altKey ? 1 / 32 : grid.value
  const place = (beats: number, up: number): void => {
    const row = roll.rowOf(cursor.value.pitch)
    cursor.value = {
      beat: Math.max(0, cursor.value.beat + beats),
      pitch: rows.value[Math.min(rows.value.length - 1, Math.max(0, row - up))]?.pitch ?? 60,
    }
    roll.show(cursor.value.pitch)
  }
  const along = (by: number): void => {
    const order = line.value.notes
      .map((n, i) => ({ n, i }))
      .sort((a, b) => a.n.start - b.n.start || a.n.pitch - b.n.pitch)
    const now = order.findIndex((x) => of.has(x.i))
    const next =
      order[now < 0 ? (by > 0 ? 0 : order.length - 1) : Math.min(order.length - 1, Math.max(0, now + by))]
    if (!next) return
    chosen.value = new Set([next.i])
    cursor.value = { beat: next.n.start, pitch: Math.round(next.n.pitch) }
    roll.show(next.n.pitch)
    notices.spoken = noteInWords(next.n)
  }
  const acts: Record<string, () => void> = {
    'ArrowLeft': () =>
      some ? change('Move notes', (l) => moveNotes(l, of, -step, 0)) : place(-grid.value, 0),
    'ArrowRight': () =>
      some ? change('Move notes', (l) => moveNotes(l, of, step, 0)) : place(grid.value, 0),
    'ArrowUp': () => (some ? change('Transpose notes', (l) => moveNotes(l, of, 0, 1)) : place(0, 1)),
    'ArrowDown': () => (some ? change('Transpose notes', (l) => moveNotes(l, of, 0, -1)) : place(0, -1)),
    'Shift+ArrowLeft': () => change('Shorten notes', (l) => stretchNotes(l, of, -step)),
    'Shift+ArrowRight': () => change('Lengthen notes', (l) => stretchNotes(l, of, step)),
    'Shift+ArrowUp': () => change('Set velocities', (l) => setVelocities(l, of, (n) => n.velocity + 0.05)),
    'Shift+ArrowDown': () => change('Set velocities', (l) => setVelocities(l, of, (n) => n.velocity - 0.05)),
    'Enter': () => {
      change(isKit.value ? 'Set step' : 'Draw note', (l) =>
        toggleStep(l, cursor.value.pitch, cursor.value.beat, grid.value, 0.8),
      )
      hear(cursor.value.pitch)
    },
    'Delete': () => {
      change('Remove notes', (l) => removeNotes(l, of))
      chosen.value = new Set()
    },
    ',': () => along(-1),
    '.': () => along(1),
    'Ctrl+c': () => tools.value?.copy(),
    'Ctrl+x': () => tools.value?.cut(),
    'Ctrl+v': () => tools.value?.paste(cursor.value.beat),
    'Ctrl+d': () => tools.value?.repeat(),
    'Ctrl+a': () => {
      chosen.value = new Set(line.value.notes.keys())
    },
    'Escape': () => {
      chosen.value = new Set()
    },
    'PageUp': () => roll.scroll(-12),
    'PageDown': () => roll.scroll(12),
    'Ctrl+ArrowUp': () => roll.zoom(1),
    'Ctrl+ArrowDown': () => roll.zoom(-1),
  }
  const key = `${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.shiftKey && e.key.startsWith('Arrow') ? 'Shift+' : ''}${e.key === 'Backspace' ? 'Delete' : e.key}`
  const act = acts[key]
  if (!act || (key === 'Escape' && !some)) return
  e.preventDefault()
  e.stopPropagation()
  act()
}

const picked = computed(() => [...chosen.value].flatMap((i) => line.value.notes[i] ?? []))
const spokenLane = computed(
  () =>
    `Notes of ${props.track.name}: ${line.value.notes.length}${picked.value[0] ? `; ${picked.value.length === 1 ? noteInWords(picked.value[0]) : `${picked.value.length} selected`}` : ''}`,
)
</script>

<template>
  <div
    class="border-b border-line"
    @focusin="screen.toolLane = track.id"
    @pointerdown.capture="screen.toolLane = track.id"
  >
    <Teleport v-if="screen.toolLane === track.id" defer to="#lane-tools">
      <NoteTools
        ref="tools"
        :track="track"
        :line="line"
        :chosen="chosen"
        :grid="grid"
        :scale="scale"
        :beneath="beneath"
        @choose="chosen = $event"
        @scale="scale = $event"
        @beneath="beneath = $event"
      />
    </Teleport>
    <div class="relative flex">
      <div class="sticky left-0 z-10 w-52.5 shrink-0 border-r border-line bg-paper text-tiny text-second">
        <div
          ref="keys"
          class="overflow-x-hidden overflow-y-auto"
          tabindex="0"
          role="group"
          :aria-label="`Keys of ${track.name}`"
          title="Scroll to other keys. Alt+wheel over the notes scrolls too, Alt+Shift+wheel zooms."
          :style="{ height: `${height}px` }"
          @scroll="roll.follow"
        >
          <span
            v-for="(r, i) in rows"
            :key="i"
            class="block pr-1 text-right whitespace-nowrap"
            :style="{ height: `${rowHeight}px`, lineHeight: `${rowHeight}px` }"
            >{{ isKit || r.pitch % 12 === 0 ? r.name : '' }}</span
          >
        </div>
        <span class="block pr-1 text-right" :style="{ height: `${BENEATH}px` }">{{ beneath }}</span>
      </div>
      <div class="relative flex-1">
        <div
          ref="lane"
          class="relative touch-none"
          tabindex="0"
          role="application"
          data-region="notes"
          :aria-label="spokenLane"
          title="Drag to draw, Shift+drag to select, double-click to remove. Arrow keys, Enter, comma and full stop work as well."
          :style="{ height: `${height + BENEATH}px` }"
          @pointerdown="press"
          @wheel="roll.wheel"
          @dblclick="doubleClick"
          @keydown="keydown"
        >
          <canvas ref="canvas" class="absolute inset-0 h-full w-full" aria-hidden="true" />
        </div>
        <CurveEditor
          v-if="beneath !== 'velocity'"
          :key="beneath"
          class="absolute! bottom-0 left-0"
          :style="{ height: `${BENEATH}px`, width: `${(line.length || beats) * perBeat}px` }"
          :points="
            line[beneath].length ? line[beneath] : [{ x: 0, y: beneath === 'bend' ? 0.5 : 0, bend: 0 }]
          "
          :length="line.length || beats"
          :hue="0"
          :name="`${beneath} of ${track.name}`"
          :snap="snap"
          :grid="1"
          tool="points"
          :span="null"
          :preview="null"
          :playhead="() => NaN"
          @begin="hand.begin(`Draw ${beneath}`)"
          @end="hand.end()"
          @change="change(`Draw ${beneath}`, (l) => ({ ...l, [beneath]: $event.map((p) => ({ ...p })) }))"
        />
      </div>
      <LaneResizer
        :lane="`notes:${track.id}`"
        :name="`the notes of ${track.name}`"
        :height="height + BENEATH"
        :least="120"
        :most="720"
      />
    </div>
  </div>
</template>
