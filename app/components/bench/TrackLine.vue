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

const actions = computed(() => {
  const { track } = props
  const remove = {
    text: track.kind === 'bus' ? 'Remove bus' : 'Remove track',
    tip: 'Undo restores it',
    keys: 'Delete',
    run: () => doc.edit(`Remove ${track.name}`, removeTrack(track.id)),
  }
  if (track.kind !== 'track') return [[remove]]
  return [
    [
      {
        text: 'Replace sound…',
        tip: 'Plays another sound through the same chain',
        run: () => {
          screen.replacing = track.id
          screen.dialog = 'track'
        },
      },
      {
        text: 'Notes to this track',
        tip: 'Sends played notes here, even when another track is selected',
        on: devices.notesTo === track.id,
        run: () => {
          devices.notesTo = devices.notesTo === track.id ? null : track.id
        },
      },
      {
        text: 'Duplicate',
        tip: 'Copies the track with its chain, modulators and links',
        keys: 'D',
        run: () => shelf.duplicateTrack(track.id),
      },
      {
        text: 'Keep chain on shelf…',
        tip: 'Saves the whole chain with its modulators as a preset',
        run: () => {
          screen.toKeep = shelf.chainToKeep(track.id) ?? null
          if (screen.toKeep) screen.dialog = 'keep'
        },
      },
    ],
    [
      {
        text: 'Print…',
        tip: 'Renders the track over the loop to a new track',
        keys: 'Ctrl+P',
        run: () => {
          screen.dialog = 'print'
        },
      },
      {
        text: 'Export for web pages…',
        tip: 'Saves the chain as a module that plays in any web page',
        run: () => {
          selection.selectTrack(track.id)
          screen.dialog = 'export'
        },
      },
      ...(track.print
        ? [
            {
              text: 'Print again',
              tip: `Printed through ${track.print.chain}. Renders the original track again.`,
              run: () => void printing.again(track.id),
            },
          ]
        : []),
    ],
    [remove],
  ]
})
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
        title="Type a new name"
        @change="doc.edit('Rename track', rename(track.id, ($event.target as HTMLInputElement).value))"
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
        :aria-label="`${track.name} clipped`"
        title="Clipped. Click to clear."
      />
      <button
        class="small-button narrow"
        :aria-pressed="isMuted"
        :title="`Mutes ${track.name}`"
        :aria-label="`Mute ${track.name}`"
        @click="doc.edit(`Mute ${track.name}`, setParam(track.id, 'mute', isMuted ? 0 : 1))"
      >
        M
      </button>
      <button
        v-if="track.kind !== 'mix'"
        class="small-button narrow"
        :aria-pressed="monitoring.soloTracks.includes(track.id)"
        :title="`Plays only ${track.name}. Does not affect renders.`"
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
          v-if="track.kind === 'track'"
          class="small-button"
          title="Shows the source of the track"
          :aria-pressed="selection.selectedId === track.source?.id"
          @click="track.source && selection.select(track.source.id)"
        >
          Source
        </button>
        <ActionMenu
          v-if="track.kind !== 'mix'"
          class="ml-auto"
          small
          :label="`Actions for ${track.name}`"
          tip="Replace, duplicate, print, export, remove"
          :groups="actions"
        />
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
