<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import type { Project, Track } from '@oleaje/core/project/schema'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { clockText, readClock } from '../../composables/clock-text'
import { useSession } from '../../composables/useSession'

/**
 * A long sound: which time of it sounds, to be typed where a pixel of its wave is seconds long, and what it
 * takes of disk and memory.
 */
const props = defineProps<{ track: Track; sound: Project['audio'][string] }>()
const { doc, host } = useSession()
const seconds = (): number => props.sound.frames / props.sound.sampleRate
const at = (mark: 'start' | 'end'): number =>
  (props.track.source?.params[mark] ?? (mark === 'end' ? 1 : 0)) * seconds()
const names = { start: 'where the sound begins', end: 'where the sound ends' }

function take(mark: 'start' | 'end', text: string): void {
  const { source } = props.track
  const time = readClock(text)
  if (time > seconds()) throw new Error(`The sound is ${clockText(seconds())} long.`)
  if (mark === 'start' ? time >= at('end') : time <= at('start'))
    throw new Error('The start must lie before the end.')
  if (source) doc.edit(`Set ${names[mark]}`, setParam(source.id, mark, time / seconds()))
}

const MB = 1e6
const onDisk = computed(() =>
  Math.round((props.sound.frames * props.sound.channels * 4) / MB).toLocaleString('en'),
)
const atHand = ref(0)
let timer: ReturnType<typeof setInterval> | undefined
onMounted(() => {
  timer = setInterval(() => {
    atHand.value = Math.round(host.sounds.pieceBytes / MB)
  }, 500)
})
onUnmounted(() => clearInterval(timer))
</script>

<template>
  <div class="mt-1 flex flex-wrap items-center gap-x-2 text-tiny">
    <label v-for="mark in ['start', 'end'] as const" :key="mark"
      >{{ mark === 'start' ? 'from' : 'to' }}
      <TypedField
        class="w-22"
        :label="`Time ${names[mark]}`"
        :value="clockText(at(mark))"
        :take="(text: string) => take(mark, text)"
    /></label>
    <span class="text-second">
      of {{ clockText(seconds()) }}, streamed from storage: {{ onDisk }} MB in this browser,
      <span data-testid="at-hand">{{ atHand }}</span> MB in memory.
    </span>
  </div>
</template>
