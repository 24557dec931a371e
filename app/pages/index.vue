<script setup lang="ts">
import { Pane, Splitpanes } from 'splitpanes'
import 'splitpanes/dist/splitpanes.css'
import { onMounted, ref } from 'vue'
import { useSession } from '../composables/useSession'
import { useShortcuts } from '../composables/useShortcuts'

/** The Bench: build and listen. */
const session = useSession()
const { doc, bench } = session
const dropping = ref(false)
const sizes = ref<Record<string, number[]>>(JSON.parse(localStorage.getItem('panels') ?? '{}') as Record<string, number[]>)
useShortcuts()
onMounted(() => {
  void session.begin()
  nameSplitters()
})

/** Says what the dividers between panels are, which their package leaves open. */
function nameSplitters(): void {
  document.querySelectorAll('.splitpanes__splitter').forEach((el, i) => {
    el.setAttribute('aria-label', `Divider ${i + 1} between panels`)
    el.setAttribute('aria-valuenow', '50')
  })
}

function keep(name: string, panes: { size: number }[]): void {
  sizes.value = { ...sizes.value, [name]: panes.map((p) => p.size) }
  localStorage.setItem('panels', JSON.stringify(sizes.value))
}
const size = (name: string, i: number, otherwise: number): number => sizes.value[name]?.[i] ?? otherwise

function drop(e: DragEvent): void {
  dropping.value = false
  const files = [...(e.dataTransfer?.files ?? [])]
  if (files.length) void session.takeFiles(files)
}
</script>

<template>
  <main class="flex h-screen min-w-[1100px] flex-col" @dragenter.prevent="dropping = ($event.dataTransfer?.types ?? []).includes('Files')" @dragover.prevent @drop.prevent="drop" @dragleave.self="dropping = false">
    <BenchHeader />
    <div v-if="doc.trouble" role="alert" class="flex items-center gap-3 border-b border-magenta bg-sheet px-4 py-1 text-magenta"><span class="flex-1">{{ doc.trouble }}</span><button class="small-button" @click="doc.trouble = ''">Dismiss</button></div>
    <Splitpanes class="min-h-0 flex-1" :push-other-panes="false" @resized="keep('columns', $event.panes ?? $event)">
      <Pane :size="size('columns', 0, 14.7)" min-size="11"><TrackList /></Pane>
      <Pane :size="size('columns', 1, 63)" min-size="40">
        <Splitpanes horizontal :push-other-panes="false" @resized="keep('rows', $event.panes ?? $event)">
          <Pane :size="size('rows', 0, 34)" min-size="20"><ChartView /></Pane>
          <Pane :size="size('rows', 1, 66)" min-size="30"><NodePanel /></Pane>
        </Splitpanes>
      </Pane>
      <Pane :size="size('columns', 2, 22.3)" min-size="16"><ModulatorPanel /></Pane>
    </Splitpanes>
    <footer class="grid h-[128px] border-t border-ink" style="grid-template: minmax(0, 1fr) / 14.7% minmax(0, 1fr) 22.3%"><TransportPanel class="border-r border-line" /><SourceWave class="border-r border-line" /><ListeningPanel /></footer>
    <div v-if="dropping" class="pointer-events-none fixed inset-0 z-50 flex items-center justify-center border-4 border-magenta bg-paper/80"><p class="water-name text-[26px]">Let go: a sound becomes a track, a bundle opens.</p></div>
    <KeysDialog v-if="bench.dialog === 'keys'" />
    <FindDialog v-if="bench.dialog === 'find' || bench.dialog === 'add'" :key="bench.dialog" />
    <RenderDialog v-if="bench.dialog === 'render'" />
    <ProjectsDialog v-if="bench.dialog === 'projects'" />
  </main>
</template>

<style>
.splitpanes__splitter { background: var(--line); position: relative; flex: none; }
.splitpanes--vertical > .splitpanes__splitter { width: 1px; cursor: col-resize; }
.splitpanes--horizontal > .splitpanes__splitter { height: 1px; cursor: row-resize; }
.splitpanes__splitter::before { content: ""; position: absolute; inset: -3px; z-index: 10; }
</style>
