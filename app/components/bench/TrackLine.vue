<script setup lang="ts">
import { removeTrack, rename } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { sourceFace } from '../pictures/index'

/** One track: a line with its meter; selected, also what it plays, its level and its place. */
const props = defineProps<{ track: Track }>()
const { doc, shelf, printing, selection, monitoring, screen, devices } = useSession()
const isSelected = computed(() => selection.track?.id === props.track.id)
const isMuted = computed(() => (props.track.params.mute ?? 0) >= 0.5)
const controls = computed(() => sourceFace(props.track.source?.type ?? '').controls)

function replace(): void {
  screen.replacing = props.track.id
  screen.dialog = 'track'
}
</script>

<template>
  <article
    :data-track="track.id"
    class="border-b border-line border-l-3 px-2 py-0.5"
    :class="isSelected ? 'border-l-ink bg-sheet pb-1' : 'border-l-transparent'"
  >
    <div class="flex items-center gap-1">
      <TextField
        v-if="isSelected"
        class="min-w-0 flex-1 bg-transparent font-semibold"
        :value="track.name"
        :aria-label="`Name of track ${track.name}`"
        title="Type another name"
        @change="doc.edit('Rename the track', rename(track.id, ($event.target as HTMLInputElement).value))"
        @keydown.stop
      />
      <button
        class="min-w-0 truncate text-left font-semibold"
        :class="isSelected ? 'sr-only' : 'flex-1'"
        data-selects
        :aria-current="isSelected"
        :title="track.name"
        @click="selection.selectTrack(track.id)"
      >
        {{ track.name }}
      </button>
      <span class="meter" aria-hidden="true"><i data-bar /><b data-hold /></span>
      <button
        class="clip"
        data-clip
        hidden
        :aria-label="`${track.name} went over 0 dBFS`"
        title="Went over 0 dBFS; press to forget it"
      />
      <button
        class="small-button narrow"
        :aria-pressed="isMuted"
        :title="`Mute ${track.name}`"
        :aria-label="`Mute ${track.name}`"
        @click="doc.edit(`Mute ${track.name}`, setParam(track.id, 'mute', isMuted ? 0 : 1))"
      >
        M
      </button>
      <button
        v-if="track.kind !== 'mix'"
        class="small-button narrow"
        :aria-pressed="monitoring.soloTracks.includes(track.id)"
        :title="`Hear ${track.name} alone; not part of a render`"
        :aria-label="`Solo ${track.name}`"
        @click="monitoring.toggleSoloTrack(track.id)"
      >
        S
      </button>
    </div>
    <div v-if="isSelected" class="text-small">
      <p class="flex justify-between gap-2 text-tiny text-second">
        <span class="truncate">{{ doc.project ? sourceSummary(doc.project, track) : '' }}</span>
        <span data-db class="whitespace-nowrap">−∞</span>
      </p>
      <MiniGauge :owner="track.id" param="level" /><MiniGauge :owner="track.id" param="pan" />
      <RouteControls v-if="track.kind !== 'mix'" :from="track.id" />
      <component :is="controls" v-if="controls" :track="track" />
      <div class="mt-1 flex flex-wrap gap-1">
        <TakeList :track="track" />
        <button
          v-if="track.kind === 'bus'"
          class="small-button"
          title="With all that goes to it; undo brings it back"
          @click="doc.edit(`Remove ${track.name}`, removeTrack(track.id))"
        >
          Remove bus
        </button>
        <template v-if="track.kind === 'track'">
          <button
            class="small-button"
            title="What it plays: picture and gauges"
            :aria-pressed="selection.selectedId === track.source?.id"
            @click="track.source && selection.select(track.source.id)"
          >
            Source
          </button>
          <button class="small-button" title="Another sound through the same chain" @click="replace">
            Replace sound
          </button>
          <button
            class="small-button"
            :aria-pressed="devices.notesTo === track.id"
            title="Notes that are played go here, whatever is selected"
            @click="devices.notesTo = devices.notesTo === track.id ? null : track.id"
          >
            Notes here
          </button>
          <button
            class="small-button"
            title="With chain, modulators and links (D)"
            @click="shelf.duplicateTrack(track.id)"
          >
            Duplicate
          </button>
          <button
            class="small-button"
            title="Renders it over the loop to a new track (Ctrl+P)"
            @click="screen.dialog = 'print'"
          >
            Print
          </button>
          <button
            v-if="track.print"
            class="small-button"
            :title="`Printed through ${track.print.chain}. Prints once more what it was made from, as that is now`"
            @click="printing.again(track.id)"
          >
            Print again
          </button>
          <button
            class="small-button"
            title="Delete; undo brings it back"
            @click="doc.edit(`Remove track ${track.name}`, removeTrack(track.id))"
          >
            Remove track
          </button>
        </template>
      </div>
    </div>
  </article>
</template>

<style scoped>
.meter {
  position: relative;
  width: 32px;
  height: 6px;
  flex: none;
  background: var(--shoal);
  overflow: hidden;
}
.meter i {
  position: absolute;
  inset: 0;
  background: var(--deep);
  transform: scaleX(0);
  transform-origin: left;
}
.meter b {
  position: absolute;
  inset-block: 0;
  left: 0;
  width: 100%;
  border-left: 2px solid var(--ink);
  transform: translateX(-4px);
}
.narrow {
  min-width: 20px;
  padding: 0;
}
.clip {
  width: 10px;
  height: 10px;
  flex: none;
  background: var(--magenta);
}
</style>
