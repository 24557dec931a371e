<script setup lang="ts">
import type { Take, Track } from '@oleaje/core/project/schema'
import { Popover, PopoverButton, PopoverPanel } from '../ui/parts/popover'
import { useSession } from '../../composables/useSession'

/** The takes of a track where they were recorded along the song. */
defineProps<{ track: Track; perBeat: number }>()
const { doc } = useSession()

/** Length of a take in quarter notes at the song's tempo. */
function beats(take: Take): number {
  const ref = doc.project?.audio[take.wet]
  return ref && doc.project ? ((ref.frames / ref.sampleRate) * doc.project.tempo) / 60 : 1
}
</script>

<template>
  <div class="flex border-b border-dotted border-line text-tiny">
    <div class="sticky left-0 z-10 w-52.5 shrink-0 border-r border-line bg-paper pr-1 text-right text-second">
      Takes
    </div>
    <ul class="relative flex-1" :style="{ height: `${22 * (track.takes?.length ?? 0)}px` }">
      <li v-for="(t, i) in track.takes" :key="t.id">
        <Popover
          class="absolute h-5"
          :style="{
            left: `${t.at * perBeat}px`,
            top: `${22 * i + 1}px`,
            width: `${Math.max(60, beats(t) * perBeat)}px`,
          }"
        >
          <PopoverButton
            class="h-full w-full truncate border border-deep bg-shoal px-1 text-left"
            :title="`${t.name}: play, keep or remove`"
          >
            {{ t.name }}
          </PopoverButton>
          <PopoverPanel
            class="absolute top-full left-0 z-40 flex gap-1 border border-ink bg-sheet p-2 whitespace-nowrap"
          >
            <TakeActions :track="track" :take="t" />
          </PopoverPanel>
        </Popover>
      </li>
    </ul>
  </div>
</template>
