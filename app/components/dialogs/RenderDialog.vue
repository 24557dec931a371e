<script setup lang="ts">
import type { WavDepth } from '@oleaje/core/formats/wav'
import { fileSave } from 'browser-fs-access'
import { computed, onBeforeUnmount, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Prints the loop to a WAV file, in the worker, with progress. */
const session = useSession()
const { doc, bench } = session
const track = ref(bench.toPrint)
const depth = ref<WavDepth>(24)
const tail = ref<'auto' | '0'>('auto')
const parts = computed(() => [
  { value: '', text: 'the mix' },
  ...(doc.project?.tracks ?? []).filter((t) => t.kind === 'track').map((t) => ({ value: t.id, text: `${t.name} alone, through the mix` })),
])
const tails = [{ value: 'auto', text: 'until it has rung out' }, { value: '0', text: 'none, cut at the end' }] as const
const depths = [{ value: 16, text: '16 bit, dithered' }, { value: 24, text: '24 bit' }, { value: 32, text: '32 bit float' }] as const
const seconds = computed(() => (((doc.project?.loop.end ?? 0) - (doc.project?.loop.start ?? 0)) * 60 / (doc.project?.tempo ?? 120)).toFixed(2))
const progress = ref(-1)
const report = ref('')
let stop = (): void => {}
onBeforeUnmount(() => {
  bench.toPrint = ''
  stop()
})

async function start(): Promise<void> {
  report.value = ''
  progress.value = 0
  try {
    const job = session.rendering.start({ track: track.value || undefined, tail: tail.value === 'auto' ? 'auto' : 0 }, depth.value, (done) => { progress.value = done })
    stop = job.stop
    const blob = await job.done
    progress.value = -1
    if (!blob) {
      report.value = 'Stopped; nothing was written.'
      return
    }
    const name = `${doc.project?.name ?? 'render'}${track.value ? ` ${doc.project?.tracks.find((t) => t.id === track.value)?.name}` : ''}.wav`
    await fileSave(blob, { fileName: name, extensions: ['.wav'], description: 'WAV sound' })
    report.value = `Written: ${name}, ${(blob.size / 1e6).toFixed(1)} MB.`
  } catch (error) {
    progress.value = -1
    report.value = error instanceof DOMException && error.name === 'AbortError' ? 'Not written: no place was chosen.' : sentence(error)
  }
}
</script>

<template>
  <BaseDialog title="Render" @close="bench.dialog = ''">
    <div class="grid gap-2" style="grid-template-columns: 120px 1fr">
      <span>What</span><ChoiceField v-model="track" label="What" hide-label :options="parts" />
      <span>Range</span><span>the loop, {{ seconds }} s</span>
      <span>Tail</span><ChoiceField v-model="tail" label="Tail" hide-label :options="tails" />
      <span>Depth</span><ChoiceField v-model="depth" label="Depth" hide-label :options="depths" />
    </div>
    <div class="mt-3 flex items-center gap-3">
      <button v-if="progress < 0" class="plain-button" @click="start">Render to WAV</button>
      <template v-else><progress class="flex-1" :value="progress" max="1" aria-label="Progress of the render" /><button class="plain-button" @click="stop()">Stop</button></template>
      <p role="status" class="text-second">{{ report }}</p>
    </div>
    <p class="mt-2 text-[13px] text-second">The render is what you hear before the monitor stage: solo, dry, level matching and the safety limiter are not in it.</p>
  </BaseDialog>
</template>
