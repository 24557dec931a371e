<script setup lang="ts">
import { copyToOther, hear } from '@oleaje/core/project/chain-edits'
import { renameProject } from '@oleaje/core/project/song-edits'
import { Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { fileSave } from 'browser-fs-access'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Name and state of the document, undo, A/B/Dry, and the ways to keep and print. */
const session = useSession()
const { doc, selection, monitoring, screen, preferences } = session
const unkept = computed(() =>
  doc.unkeptSounds === 1 ? 'a sound is not kept' : `${doc.unkeptSounds} sounds are not kept`,
)
const saved = computed(
  () =>
    ({
      'saved': doc.unkeptSounds ? unkept.value : 'saved',
      'saving': 'saving…',
      'unsaved': 'saving…',
      'memory only': 'not saved: in memory only',
      'read only': 'read-only',
    })[doc.saveState],
)

const views = [
  { to: '/', name: 'Bench', key: 'B', tip: 'Build and listen' },
  { to: '/timeline', name: 'Timeline', key: 'T', tip: 'Curves, sections, rides' },
  { to: '/links', name: 'Links', key: 'K', tip: 'What moves what, over which range' },
]

const matched = computed(() =>
  monitoring.matching
    ? `${monitoring.matchDb > 0 ? '+' : monitoring.matchDb < 0 ? '−' : ''}${Math.abs(monitoring.matchDb).toFixed(1)} LU`
    : '',
)
function listenTo(state: 'a' | 'b'): void {
  monitoring.hearDry = false
  if (selection.track) doc.edit('Change between A and B', hear(selection.track.id, state), true)
}

async function toFile(): Promise<void> {
  try {
    const blob = await session.library.pack()
    await fileSave(blob, {
      fileName: `${doc.project?.name ?? 'project'}.zip`,
      extensions: ['.zip'],
      description: 'Oleaje bundle',
    })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') return
    doc.trouble = sentence(error)
  }
}
</script>

<template>
  <header class="flex h-10.75 items-center gap-2 border-b border-ink px-3">
    <h1 class="water-name text-title leading-none font-medium">Oleaje</h1>
    <TextField
      class="w-26 truncate bg-transparent text-second"
      :value="doc.project?.name"
      aria-label="Name of the project"
      title="Type another name"
      @change="doc.edit('Rename project', renameProject(($event.target as HTMLInputElement).value))"
      @keydown.stop
    />
    <span class="text-small text-second" role="status" data-testid="save-state">{{ saved }}</span>
    <nav class="flex gap-1" aria-label="Views">
      <NuxtLink
        v-for="v in views"
        :key="v.to"
        :to="v.to"
        class="px-2 py-1 font-medium"
        active-class="view-now"
        :title="`${v.tip} (${v.key})`"
      >
        {{ v.name
        }}<span v-if="v.to === '/links'" class="ml-1 text-second">{{ doc.project?.links.length ?? 0 }}</span>
      </NuxtLink>
    </nav>
    <nav class="flex gap-1" aria-label="Project">
      <button class="plain-button" title="Open, new, demo (P)" @click="screen.dialog = 'projects'">
        Projects
      </button>
      <button
        class="plain-button"
        title="What was kept: chains, effects, modulators (F)"
        @click="screen.dialog = 'shelf'"
      >
        Shelf
      </button>
      <button
        class="plain-button"
        title="The project with its sounds as one zip file (Ctrl+S)"
        data-action="save-file"
        @click="toFile"
      >
        Save to file
      </button>
      <button class="plain-button" title="Print to a WAV file (R)" @click="screen.dialog = 'render'">
        Render
      </button>
    </nav>
    <span class="flex-1" />
    <button
      class="plain-button"
      :disabled="!doc.undoLabel"
      aria-label="Undo"
      :title="`Undo ${doc.undoLabel} (Ctrl+Z)`"
      @click="doc.undo()"
    >
      <Undo2 :size="15" aria-hidden="true" />
    </button>
    <button
      class="plain-button"
      :disabled="!doc.redoLabel"
      aria-label="Redo"
      :title="`Redo ${doc.redoLabel} (Ctrl+Shift+Z)`"
      @click="doc.redo()"
    >
      <Redo2 :size="15" aria-hidden="true" />
    </button>
    <div v-if="selection.track" class="flex" role="group" aria-label="Which state of the chain is heard">
      <button
        v-for="s in ['a', 'b'] as const"
        :key="s"
        class="plain-button -ml-px rounded-none uppercase"
        :aria-pressed="!monitoring.hearDry && selection.track.heard === s"
        :title="`Hears ${s.toUpperCase()} of this chain, and edits it (C changes)`"
        @click="listenTo(s)"
      >
        {{ s.toUpperCase() }}
      </button>
      <button
        class="plain-button -ml-px rounded-none"
        :aria-pressed="monitoring.hearDry"
        title="Hears the source without the chain (V)"
        @click="monitoring.hearDry = !monitoring.hearDry"
      >
        Dry
      </button>
    </div>
    <button
      class="text-left text-tiny leading-tight text-second"
      :aria-pressed="monitoring.matching"
      title="Compares at the same loudness. Click to switch"
      @click="monitoring.matching = !monitoring.matching"
    >
      {{ monitoring.matching ? 'level-matched' : 'not matched' }}<br /><b
        class="text-ink"
        data-testid="matched"
        >{{ matched }}</b
      >
    </button>
    <button
      v-if="selection.track?.b"
      class="small-button"
      title="Makes the other state the same as this one"
      @click="selection.track && doc.edit('Copy to the other state', copyToOther(selection.track.id))"
    >
      {{ selection.track.heard === 'a' ? 'A→B' : 'B→A' }}
    </button>
    <button
      class="small-button"
      title="Day or night (N)"
      :aria-label="preferences.night ? 'Switch to day' : 'Switch to night'"
      @click="preferences.night = !preferences.night"
    >
      <component :is="preferences.night ? Sun : Moon" :size="14" aria-hidden="true" />
    </button>
    <button class="small-button" title="All keys (?)" aria-label="Keys" @click="screen.dialog = 'keys'">
      ?
    </button>
  </header>
</template>

<style scoped>
.view-now {
  border-bottom: 3px solid var(--magenta);
}
</style>
