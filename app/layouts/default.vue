<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useSession } from '../composables/useSession'
import { useShortcuts } from '../commands/useShortcuts'

/**
 * What all views share: the header above, the dock below, and the dialogs that open over them.
 */
const session = useSession()
const { doc, screen, notices } = session
const dropping = ref(false)
const route = useRoute()
session.views.go = async (view) => {
  await navigateTo(view)
}
useShortcuts()
onMounted(() => {
  void session.library.begin()
  void session.shelf.open()
})

function drop(e: DragEvent): void {
  dropping.value = false
  // a view may have taken them already
  const files = e.defaultPrevented ? [] : [...(e.dataTransfer?.files ?? [])]
  e.preventDefault()
  if (files.length) void session.library.takeFiles(files)
}
</script>

<template>
  <main
    class="relative flex h-screen min-h-160 min-w-275 flex-col overflow-hidden"
    @dragenter.prevent="dropping = ($event.dataTransfer?.types ?? []).includes('Files')"
    @dragover.prevent
    @drop="drop"
    @dragleave.self="dropping = false"
  >
    <BenchHeader />
    <div
      v-if="doc.trouble"
      role="alert"
      class="flex items-center gap-3 border-b border-magenta bg-sheet px-4 py-1 text-magenta"
    >
      <span class="flex-1">{{ doc.trouble }}</span><button class="small-button" @click="doc.trouble = ''">
        Dismiss
      </button>
    </div>
    <NoticeBar />
    <UpdateNotice />
    <OverloadNotice />
    <div class="relative min-h-0 flex-1"><slot /></div>
    <ControllerStrip v-if="screen.deviceShown" />
    <BottomDock />
    <div
      v-if="dropping"
      class="drop-sign fixed inset-0 z-50 flex items-center justify-center border-4 border-magenta"
    >
      <p class="water-name text-banner">
        {{
          route.path.endsWith('/try-outs')
            ? 'Drop sounds to try the chain on them.'
            : 'Drop a sound to add a track, a MIDI file to import notes, or a bundle to open it.'
        }}
      </p>
    </div>
    <GuidePanel v-if="screen.guide" />
    <DicePanel v-if="screen.dice" />
    <MattersPanel v-if="screen.matters" />
    <TooltipLayer />
    <p class="sr-only" aria-live="polite">{{ notices.spoken }}</p>
    <ExportDialog v-if="screen.dialog === 'export'" />
    <PrintDialog v-if="screen.dialog === 'print'" />
    <MidiDialog v-if="screen.dialog === 'midi'" />
    <KeysDialog v-if="screen.dialog === 'keys'" />
    <LicencesDialog v-if="screen.dialog === 'licences'" />
    <FindDialog v-if="screen.dialog === 'find'" />
    <AddDialog v-if="screen.dialog === 'add'" />
    <KeepDialog v-if="screen.dialog === 'keep'" />
    <TrackDialog v-if="screen.dialog === 'track'" />
    <ProjectsDialog v-if="screen.dialog === 'projects'" />
    <MacroDialog v-if="screen.dialog === 'macro' && screen.shownMacro" :id="screen.shownMacro" />
  </main>
</template>

<style scoped>
.drop-sign {
  pointer-events: none;
  background: color-mix(in srgb, var(--paper) 80%, transparent);
}
</style>
