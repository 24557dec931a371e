<script setup lang="ts">
import type { Span } from '@oleaje/core/project/curve-edits'
import type { Track } from '@oleaje/core/project/schema'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { loudestBetween, useWave, wavePlace } from '../../composables/useWave'

/** Notes that are drawn one by one. */
const MOST_DRAWN = 20_000

/** A track along the song: the wave it plays, and its notes over it. */
const props = defineProps<{
  track: Track
  perBeat: number
  beats: number
  span: Span | null
  hasLanes: boolean
}>()
const { doc, selection, screen } = useSession()
const turned = (ids: readonly string[]): string[] =>
  ids.includes(props.track.id) ? ids.filter((id) => id !== props.track.id) : [...ids, props.track.id]
const isOpen = computed(() => screen.openLines.includes(props.track.id))
const fold = (): void => {
  screen.openLines = turned(screen.openLines)
}
const isFolded = computed(() => screen.foldedTracks.includes(props.track.id))
const foldLanes = (): void => {
  screen.foldedTracks = turned(screen.foldedTracks)
}
const peaks = useWave(() => props.track)

const canvas = useCanvas(({ g, width, height, color }) => {
  const project = doc.project
  const { track, perBeat } = props
  if (!project) return
  const ref = track.source?.audio ? project.audio[track.source.audio] : undefined
  const table = peaks.value
  if (props.span) {
    g.fillStyle = color('shoal')
    g.fillRect(props.span.from * perBeat, 0, (props.span.to - props.span.from) * perBeat, height)
  }
  g.fillStyle = color('deep')
  if (ref && table && sourceDefinition(track.source?.type ?? '')?.onSong) {
    const share = wavePlace(track, ref.frames, project.tempo, project.sampleRate)
    const loudest = table.reduce((m, v) => Math.max(m, v), 0.05)
    g.globalAlpha = 0.7
    for (let x = 0; x < width; x += 2) {
      const v = loudestBetween(table, share(x / perBeat), share((x + 2) / perBeat)) / loudest
      g.fillRect(x, height / 2 - v * height * 0.45, 1.5, Math.max(1, v * height * 0.9))
    }
    g.globalAlpha = 1
  }
  const { line } = track
  if (line?.notes.length) {
    const low = line.notes.reduce((m, n) => Math.min(m, n.pitch), 127) - 1
    const high = line.notes.reduce((m, n) => Math.max(m, n.pitch), 0) + 1
    g.fillStyle = color('ink')
    const rounds = line.length > 0 ? Math.ceil(props.beats / line.length) : 1
    // rounds too short or too many to be told apart are one grey band
    if (rounds * line.notes.length > MOST_DRAWN || line.length * perBeat * rounds < rounds) {
      g.globalAlpha = 0.3
      g.fillRect(0, height * 0.4, props.beats * perBeat, height * 0.2)
      g.globalAlpha = 1
    } else
      for (let r = 0; r < rounds; r++) {
        for (const n of line.notes)
          g.fillRect(
            (n.start + r * line.length) * perBeat,
            height - 3 - ((n.pitch - low) / (high - low)) * (height - 6),
            Math.max(2, n.length * perBeat - 1),
            2,
          )
      }
  }
})
</script>

<template>
  <div class="flex h-6.5 border-b border-dotted border-line" :data-lane="`notes:${track.id}`">
    <div
      class="sticky left-0 z-10 flex w-52.5 shrink-0 border-r border-line bg-paper"
      :class="selection.track?.id === track.id ? 'border-l-3 border-l-ink font-semibold' : ''"
    >
      <button
        class="flex items-center gap-0.5 px-1 text-tiny font-normal text-second"
        v-if="track.kind === 'track'"
        :aria-expanded="isOpen"
        :aria-label="`Notes of ${track.name}`"
        title="Opens or closes the notes of this track"
        @click="fold"
      >
        <component :is="isOpen ? ChevronDown : ChevronRight" :size="12" aria-hidden="true" />Notes
      </button>
      <button
        class="min-w-0 flex-1 truncate px-1 text-left text-small"
        :aria-current="selection.track?.id === track.id"
        :title="`Selects ${track.name}`"
        @click="selection.selectTrack(track.id)"
      >
        {{ track.name }}
      </button>
      <button
        v-if="hasLanes"
        class="flex items-center px-1 text-tiny font-normal text-second"
        :aria-expanded="!isFolded"
        :aria-label="`Curves and takes of ${track.name}`"
        title="Opens or closes the curves and takes of this track"
        @click="foldLanes"
      >
        <component :is="isFolded ? ChevronRight : ChevronDown" :size="12" aria-hidden="true" />Lanes
      </button>
    </div>
    <div class="relative flex-1">
      <canvas
        ref="canvas"
        class="absolute inset-0 h-full w-full"
        role="img"
        :aria-label="`Waveform of ${track.name}`"
      />
    </div>
  </div>
</template>
