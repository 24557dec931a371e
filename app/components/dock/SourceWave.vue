<script setup lang="ts">
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import type { Modulator, NoteLine } from '@oleaje/core/project/schema'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { setLoop } from '@oleaje/core/project/song-edits'
import { computed, ref, watch } from 'vue'
import { LaneHistory } from '../../composables/lane-history'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { loudestBetween, useWave, wavePlace } from '../../composables/useWave'

/**
 * The source as it lies on the song, the loop marks, the playhead, and the curve of the traced modulator
 * below.
 */
const session = useSession()
const { doc, host, selection, monitoring } = session
const hand = useGesture()
const root = ref<HTMLElement | null>(null)
const peaks = useWave(() => selection.track)
/** Past values of the traced modulator, by place on the lane. */
const history = new LaneHistory(600)

const length = computed(() => Math.max(doc.project?.loop.end ?? 16, 16))
const modulator = computed(() =>
  doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === selection.traced),
)

watch(
  () => [selection.traced, modulator.value?.params, length.value],
  () => history.clear(),
  { immediate: true },
)

const canvas = useCanvas(({ g, width, height, color, still }) => {
  const project = doc.project
  const track = selection.track
  if (!project || !track) return
  const beats = length.value
  const x = (beat: number): number => (beat / beats) * width
  const lane = modulator.value ? 44 : 0
  still(
    [
      track.source,
      track.line,
      track.kind,
      project.tempo,
      project.beatsPerBar,
      beats,
      lane,
      peaks.value,
      document.fonts.status,
    ],
    (ground) => drawGround(ground, width, height, color, lane),
  )
  const m = modulator.value
  const now = session.transport.place()
  if (m) {
    if (monitoring.playing) history.write(now / beats, host.telemetry.get(`mod:${m.id}`, NaN))
    const y = (v: number): number => height - 4 - v * (lane - 10)
    g.strokeStyle = color(`hue-${m.hue}`)
    g.lineWidth = 1.5
    g.beginPath()
    // a synced wave is known beforehand; all else shows what it did
    const course = courseOf(m)
    if (course) for (let px = 0; px < width; px += 2) g.lineTo(px, y(course((px / width) * beats)))
    else {
      let pen = false
      history.values.forEach((v, i) => {
        if (Number.isNaN(v)) {
          pen = false
          return
        }
        if (pen) g.lineTo((i / history.values.length) * width, y(v))
        else g.moveTo((i / history.values.length) * width, y(v))
        pen = true
      })
    }
    g.stroke()
    g.font = 'italic 14px Newsreader'
    g.fillStyle = color(`hue-${m.hue}`)
    g.textBaseline = 'alphabetic'
    g.fillText(m.name, 6, height - lane + 8)
  }
  g.fillStyle = project.loop.on ? color('ink') : color('line')
  g.fillRect(x(project.loop.start), 0, x(project.loop.end) - x(project.loop.start), 5)
  g.fillStyle = color('ink')
  g.fillRect(Math.round(x(now)) - 1, 0, 2, height)
})

/** Future values of a modulator along the song, where they are known. */
function courseOf(m: Modulator): ((beat: number) => number) | null {
  const definition = modulatorDefinition(m.type)
  return definition?.course?.((k) => m.params[k] ?? definition.params[k]?.default ?? 0) ?? null
}

/** The notes of a track, round after round, the highest on top. */
function drawNotes(
  g: CanvasRenderingContext2D,
  line: NoteLine,
  perBeat: number,
  middle: number,
  half: number,
  color: string,
): void {
  const low = line.notes.reduce((m, n) => Math.min(m, n.pitch), 127) - 1
  const high = line.notes.reduce((m, n) => Math.max(m, n.pitch), 0) + 1
  const rounds = line.length > 0 ? Math.min(64, Math.ceil(length.value / line.length)) : 1
  g.fillStyle = color
  for (let r = 0; r < rounds; r++) {
    for (const n of line.notes) {
      g.globalAlpha = 0.4 + 0.6 * n.velocity
      g.fillRect(
        (n.start + r * line.length) * perBeat,
        middle + half - ((n.pitch - low) / (high - low)) * 2 * half,
        Math.max(2, n.length * perBeat - 1),
        4,
      )
    }
  }
  g.globalAlpha = 1
}

/** Bars and the wave, which stand still while it plays. */
function drawGround(
  g: CanvasRenderingContext2D,
  width: number,
  height: number,
  color: (name: string) => string,
  lane: number,
): void {
  const project = doc.project
  const track = selection.track
  if (!project || !track) return
  const beats = length.value
  const bar = project.beatsPerBar
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'left'
  g.textBaseline = 'top'
  // where lines would lie too close, only bars have one, then every fourth of these
  let every = 1
  while ((every / beats) * width < 5) every = every < bar ? bar : 4 * every
  for (let b = 0; b <= beats; b += every) {
    const x = (b / beats) * width
    g.strokeStyle = color('line')
    g.globalAlpha = b % bar === 0 ? 1 : 0.4
    g.beginPath()
    g.moveTo(Math.round(x) + 0.5, 0)
    g.lineTo(Math.round(x) + 0.5, height)
    g.stroke()
    g.globalAlpha = 1
    g.fillStyle = color('second')
    if (b % bar === 0 && b < beats && (Math.max(bar, every) / beats) * width > 22)
      g.fillText(String(b / bar + 1), x + 5, 7)
  }
  const middle = 18 + (height - 18 - lane) / 2
  const half = (height - 26 - lane) / 2
  const { source } = track
  const ref = source?.audio ? project.audio[source.audio] : undefined
  if (ref && peaks.value && source && sourceDefinition(source.type)?.onSong) {
    const table = peaks.value
    const loudest = table.reduce((most, v) => Math.max(most, v), 0.05)
    const shareAt = wavePlace(track, ref.frames, project.tempo, project.sampleRate)
    g.fillStyle = color('deep')
    g.globalAlpha = 0.85
    for (let px = 0; px < width; px++) {
      const v =
        loudestBetween(table, shareAt((px / width) * beats), shareAt(((px + 1) / width) * beats)) / loudest
      g.fillRect(px, middle - v * half, 1, Math.max(1, 2 * v * half))
    }
    g.globalAlpha = 1
    return
  }
  if (track.line?.notes.length) drawNotes(g, track.line, width / beats, middle, half, color('deep'))
  g.fillStyle = color('second')
  g.font = 'italic 15px Newsreader'
  g.textBaseline = 'middle'
  if (track.line?.notes.length) return
  g.fillText(
    track.kind === 'mix'
      ? 'sum of all tracks'
      : track.kind === 'bus'
        ? 'sum of its sends'
        : (sourceDefinition(source?.type ?? '')?.unseen ?? (ref ? 'sound is loading' : 'no sound')),
    12,
    middle,
  )
}

/** On the ruler: drags a loop, or its nearer end. Below it: sets the playhead while playing. */
function press(e: PointerEvent): void {
  const el = root.value
  const project = doc.project
  if (!el || !project) return
  const box = el.getBoundingClientRect()
  const beat = (m: PointerEvent): number => Math.max(0, ((m.clientX - box.left) / box.width) * length.value)
  if (e.clientY - box.top > 22) {
    void session.transport.play(beat(e))
    return
  }
  const snap = (b: number, fine: boolean): number => (fine ? b : Math.round(b))
  const start = snap(beat(e), e.shiftKey)
  const nearEnd = Math.abs(beat(e) - project.loop.end) < 0.6
  const nearStart = Math.abs(beat(e) - project.loop.start) < 0.6
  const move = (m: PointerEvent): void => {
    const b = snap(beat(m), m.shiftKey)
    if (nearEnd) hand.edit('Loop', setLoop({ end: Math.max(b, project.loop.start + 0.25) }))
    else if (nearStart) hand.edit('Loop', setLoop({ start: Math.min(b, project.loop.end - 0.25) }))
    else if (Math.abs(b - start) >= 0.25)
      hand.edit('Loop', setLoop({ start: Math.min(start, b), end: Math.max(start, b), on: true }))
  }
  hand.drag(e, 'Set the loop', move)
}
</script>

<template>
  <section
    ref="root"
    class="relative min-h-0 flex-1 cursor-text touch-none"
    aria-label="Source and loop"
    title="Drag along the top to set the loop (Shift turns snap off). Click below to play from there."
    @pointerdown="press"
  >
    <canvas
      ref="canvas"
      class="absolute inset-0 h-full w-full"
      role="img"
      :aria-label="`Wave of ${selection.track?.name ?? ''}`"
    />
  </section>
</template>
