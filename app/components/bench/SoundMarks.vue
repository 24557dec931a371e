<script setup lang="ts">
import { waveColumns } from '@oleaje/core/analysis/wave-columns'
import type { Track } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { computed } from 'vue'
import { clockText } from '../../composables/clock-text'
import { followPointer } from '../../composables/follow-pointer'
import { type Pen, useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { type Found, zeroCrossing } from '../../composables/useHits'
import { useSession } from '../../composables/useSession'
import { useSoundPart } from '../../composables/useSoundPart'
import { useWave, wavePlace } from '../../composables/useWave'
import { useZoom } from '../../composables/useZoom'
import { inSteps } from '../../composables/wheel-steps'

/**
 * The wave of a sound with the marks of Selection of it: where it begins, where its loop goes back to,
 * where it ends. The wave can be looked at from the whole of it down to single samples; each mark is dragged,
 * and stepped by keys, as finely as it is seen.
 */
const props = defineProps<{ track: Track; found: Found | null }>()
const { doc, host, monitoring } = useSession()
const hand = useGesture()
/** Fewest frames that are shown. */
const FEWEST = 32
/** Height of the strip that says which part is shown. */
const STRIP = 8
/** Most frames of a column that is drawn from samples. */
const MOST_PER_COLUMN = 4096
/** Distances of times along the wave, in seconds. */
const TICKS = [
  0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800, 3600,
]

const source = computed(() => props.track.source)
const definition = computed(() => sourceDefinition(source.value?.type ?? ''))
const value = (param: string): number =>
  source.value?.params[param] ?? definition.value?.params[param]?.default ?? 0
const marks = computed(() => ['start', 'loopFrom', 'end'].filter((k) => definition.value?.params[k]))
const markNames: Record<string, string> = {
  start: 'where the sound begins',
  loopFrom: 'where the loop goes back to',
  end: 'where the sound ends',
}
const DRAG =
  'Drag the start and end, Shift+drag the loop start. They snap to hits, ' +
  'else to zero crossings; Alt turns snap off. Ctrl+wheel zooms, the wheel scrolls'

const peaks = useWave(() => props.track)
const sound = computed(() => host.sound(source.value?.audio ?? ''))
const frames = computed(() => sound.value?.long?.frames ?? sound.value?.channels[0]?.length ?? 0)
const rate = computed(() => sound.value?.long?.sampleRate ?? sound.value?.sampleRate ?? 48_000)
const zoom = useZoom(() => Math.min(1, FEWEST / Math.max(FEWEST, frames.value)))
const { view } = zoom
const part = useSoundPart(
  () => sound.value,
  () => [view.value.from * frames.value, view.value.to * frames.value],
)
const isWhole = computed(() => view.value.to - view.value.from >= 1)

let columns = new Float32Array(0)
const canvas = useCanvas((pen) => {
  const { g, width, height, color, still } = pen
  const p = source.value?.params
  still(
    [
      p?.start,
      p?.end,
      p?.loopFrom,
      p?.reverse,
      view.value,
      peaks.value,
      part.value,
      props.found,
      document.fonts.status,
    ],
    (ground) => drawGround({ ...pen, g: ground }),
  )
  const { project } = doc
  if (!monitoring.playing || !project || !definition.value?.onSong || frames.value === 0) return
  const at = wavePlace(props.track, frames.value, project.tempo, rate.value)(host.telemetry.fixed('beat'))
  const x = ((at - view.value.from) / (view.value.to - view.value.from)) * width
  if (!(x >= 0 && x <= width)) return
  g.fillStyle = color('magenta')
  g.fillRect(Math.round(x), 0, 1, height - (isWhole.value ? 0 : STRIP))
})

/** All that stands still until the hand moves something. */
function drawGround({ g, width, height: whole, color }: Omit<Pen, 'still'>): void {
  const height = isWhole.value ? whole : whole - STRIP
  const middle = height / 2
  const { from, to } = view.value
  const x = (at: number): number => ((at - from) / (to - from)) * width
  g.fillStyle = color('line')
  g.fillRect(0, Math.round(middle), width, 1)
  for (const at of props.found?.hits ?? [])
    if (at >= from && at <= to) g.fillRect(Math.round(x(at)), 0, 1, height)
  drawTimes(g, x, height, color)
  const [start, end] = [value('start'), value('end')]
  const colour = (px: number): string => color(px + 1 >= x(start) && px <= x(end) ? 'deep' : 'water')
  const perPixel = ((to - from) * frames.value) / width
  if (part.value && perPixel < 0.5) drawSamples(g, x, middle, color)
  else {
    readColumns(Math.floor(width), perPixel)
    for (let px = 0; px < columns.length / 2; px++) {
      const [low, high] = [columns[2 * px] ?? 0, columns[2 * px + 1] ?? 0]
      g.fillStyle = colour(px)
      g.fillRect(px, middle - high * (middle - 6), 1, Math.max(1, (high - low) * (middle - 6)))
    }
  }
  g.fillStyle = color('ink')
  for (const at of [start, end])
    if (x(at) > -2 && x(at) < width + 2) g.fillRect(Math.min(width - 2, Math.round(x(at))), 0, 2, height)
  if (marks.value.includes('loopFrom') && value('loopFrom') > start) {
    g.fillStyle = color('magenta')
    g.fillRect(Math.round(x(value('loopFrom'))), 0, 2, height)
  }
  if (isWhole.value) return
  // which part of the whole is shown, with the marks, so that they are found again
  g.fillStyle = color('shoal')
  g.fillRect(0, height, width, STRIP)
  g.fillStyle = color('water')
  g.fillRect(from * width, height + 1, Math.max(3, (to - from) * width), STRIP - 2)
  g.fillStyle = color('ink')
  for (const mark of marks.value)
    g.fillRect(Math.min(width - 1, Math.round(value(mark) * width)), height, 1, STRIP)
}

/**
 * Lowest and highest of each column, from samples where they are at hand and few enough, else from the peaks,
 * up and down alike.
 */
function readColumns(count: number, perPixel: number): void {
  if (columns.length !== 2 * count) columns = new Float32Array(2 * count)
  const { from, to } = view.value
  if (part.value && perPixel <= MOST_PER_COLUMN) {
    waveColumns(part.value.channels, part.value.first, from * frames.value, to * frames.value, columns)
    return
  }
  const table = sound.value?.long?.peaks ?? peaks.value
  waveColumns(table ? [table] : [], 0, from * (table?.length ?? 0), to * (table?.length ?? 0), columns)
  for (let i = 0; i < columns.length; i += 2) columns[i] = -(columns[i + 1] ?? 0)
}

/** Single samples: a line through each channel, and dots where there is room. */
function drawSamples(
  g: CanvasRenderingContext2D,
  x: (at: number) => number,
  middle: number,
  color: (name: string) => string,
): void {
  const { first, channels } = part.value ?? { first: 0, channels: [] }
  const [a, b] = [Math.floor(view.value.from * frames.value) - 1, Math.ceil(view.value.to * frames.value) + 1]
  const apart = x(1 / frames.value) - x(0)
  channels.forEach((samples, c) => {
    g.strokeStyle = g.fillStyle = color(c === 0 ? 'deep' : 'second')
    g.lineWidth = 1.5
    g.beginPath()
    for (let f = Math.max(first, a); f <= Math.min(first + samples.length - 1, b); f++) {
      const y = middle - (samples[f - first] ?? 0) * (middle - 6)
      g.lineTo(x(f / frames.value), y)
      if (apart > 7) g.fillRect(x(f / frames.value) - 2, y - 2, 4, 4)
    }
    g.stroke()
  })
}

function drawTimes(
  g: CanvasRenderingContext2D,
  x: (at: number) => number,
  height: number,
  color: (name: string) => string,
): void {
  const seconds = frames.value / rate.value
  if (seconds <= 0) return
  const perSecond = x(1 / seconds) - x(0)
  const every = TICKS.find((t) => t * perSecond >= 72) ?? 3600
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textBaseline = 'top'
  g.fillStyle = color('second')
  for (let n = Math.ceil((view.value.from * seconds) / every); n * every <= view.value.to * seconds; n++) {
    const px = Math.round(x((n * every) / seconds))
    g.fillRect(px, height - 5, 1, 5)
    g.fillText(clockText(n * every), px + 3, height - 14)
  }
}

/** A place along the sound brought to a hit that is near, or else to where the sound crosses zero. */
function snapped(at: number, width: number): number {
  const perPixel = (view.value.to - view.value.from) / width
  const hit = (props.found?.hits ?? []).find((h) => Math.abs(h - at) < 5 * perPixel)
  if (hit !== undefined) return hit
  const x = part.value?.channels[0]
  if (!part.value || !x) return at
  const within = Math.min(480, Math.ceil(6 * perPixel * frames.value))
  return (
    (part.value.first + zeroCrossing(x, Math.round(at * frames.value) - part.value.first, within)) /
    frames.value
  )
}

/** Keys of a mark: along the sound, by about a pixel, or to the next hit. What is moved stays in sight. */
function step(e: KeyboardEvent, mark: string): void {
  const s = source.value
  if (!s || e.ctrlKey || e.metaKey) return
  const now = value(mark)
  if (zoom.key(e.key, now)) {
    e.preventDefault()
    e.stopPropagation()
    return
  }
  if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return
  const way = e.key === 'ArrowLeft' ? -1 : 1
  const hits = props.found?.hits ?? []
  const next = e.shiftKey
    ? way > 0
      ? hits.find((h) => h > now + 1e-4)
      : hits.findLast((h) => h < now - 1e-4)
    : now + way * Math.max(0.002 * (view.value.to - view.value.from), 1 / Math.max(1, frames.value))
  if (next === undefined) return
  const to = Math.min(1, Math.max(0, next))
  doc.edit(`Set ${markNames[mark]}`, setParam(s.id, mark, to))
  zoom.show(to)
  e.preventDefault()
  e.stopPropagation()
}

const share = (e: MouseEvent): number => {
  const box = canvas.value?.getBoundingClientRect()
  return box ? Math.min(1, Math.max(0, (e.clientX - box.left) / box.width)) : 0
}
const placeAt = (e: MouseEvent): number => view.value.from + share(e) * (view.value.to - view.value.from)

/**
 * Drags the nearest mark of Selection; on the strip below, and by the middle button, the part that is
 * shown.
 */
function press(e: PointerEvent): void {
  const { value: s } = source
  if (e.button === 1) {
    let { clientX: x } = e
    followPointer(e, (m) => {
      zoom.scroll((x - m.clientX) / (canvas.value?.clientWidth ?? 1))
      x = m.clientX
    })
    return
  }
  if (!s || e.button !== 0) return
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  if (!isWhole.value && e.clientY > box.bottom - STRIP - 3) {
    zoom.centre(share(e))
    followPointer(e, (m) => zoom.centre(share(m)))
    return
  }
  const mark =
    e.shiftKey && marks.value.includes('loopFrom')
      ? 'loopFrom'
      : Math.abs(placeAt(e) - value('start')) < Math.abs(placeAt(e) - value('end'))
        ? 'start'
        : 'end'
  const label = `Set ${markNames[mark]}`
  const least = Math.min(0.001, 64 / Math.max(64, frames.value))
  const move = (m: PointerEvent): void => {
    const place = m.altKey ? placeAt(m) : snapped(placeAt(m), box.width)
    hand.edit(
      label,
      setParam(
        s.id,
        mark,
        mark === 'end' ? Math.max(place, value('start') + least) : Math.min(place, value('end') - least),
      ),
    )
  }
  hand.drag(e, label, move)
  move(e)
}

/**
 * Ctrl zooms by half an octave a notch, and by as little as a touch pad says; without it, a notch is a sixth
 * of what is shown.
 */
function wheel(e: WheelEvent): void {
  if (e.ctrlKey || e.metaKey) zoom.by(-inSteps(e.deltaY, e.deltaMode) / 2, placeAt(e))
  else if (isWhole.value) return
  else zoom.scroll(inSteps(e.deltaX + e.deltaY, e.deltaMode) / 6)
  e.preventDefault()
}
const middleOfView = (): number => (view.value.from + view.value.to) / 2
const timeOf = (mark: string): string => clockText((value(mark) * frames.value) / rate.value)
</script>

<template>
  <canvas
    ref="canvas"
    class="min-h-0 w-full flex-1 touch-none border border-line cursor-ew-resize"
    role="img"
    :aria-label="`Source of ${track.name}`"
    :title="DRAG"
    @pointerdown="press"
    @mousedown.middle.prevent
    @wheel="wheel"
  />
  <div class="mt-1 flex flex-wrap items-center gap-1 text-tiny">
    <button
      v-for="mark in marks"
      :key="mark"
      class="small-button"
      :aria-label="`Move ${markNames[mark]}: ${timeOf(mark)}, ${Math.round(value(mark) * 1000) / 10} %`"
      :title="`At ${timeOf(mark)}. Arrows move it, Shift+arrows to the next hit, + and − zoom about it, 0 shows the whole sound`"
      @focus="zoom.show(value(mark))"
      @keydown="step($event, mark)"
    >
      {{ mark === 'loopFrom' ? 'loop start' : mark }}
    </button>
    <span class="flex items-center gap-1" role="group" aria-label="Waveform zoom"
      ><button
        class="small-button"
        aria-label="Zoom out"
        :disabled="isWhole"
        @click="zoom.by(-1, middleOfView())"
      >
        −</button
      ><button
        class="small-button"
        aria-label="Zoom in"
        :disabled="zoom.isClosest.value"
        @click="zoom.by(1, middleOfView())"
      >
        +</button
      ><button class="small-button" :disabled="isWhole" title="Shows the whole sound" @click="zoom.fit(0, 1)">
        All</button
      ><button
        v-if="value('start') > 0 || value('end') < 1"
        class="small-button"
        title="Zooms to the part between start and end"
        @click="zoom.fit(value('start'), value('end'))"
      >
        Selection
      </button></span
    >
    <slot />
  </div>
</template>
