<script setup lang="ts">
import type { Take, Track } from '@oleaje/core/project/schema'
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
        <div
          class="absolute flex h-5 items-center border border-deep bg-shoal pl-1"
          :style="{
            left: `${t.at * perBeat}px`,
            top: `${22 * i + 1}px`,
            width: `${Math.max(76, beats(t) * perBeat)}px`,
          }"
        >
          <span class="min-w-0 flex-1 truncate">{{ t.name }}</span>
          <TakeActions :track="track" :take="t" />
        </div>
      </li>
    </ul>
  </div>
</template>
