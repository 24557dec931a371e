<script setup lang="ts">
import { stepBack, stepForward } from '../../commands/history'
import { copyToOther, hear } from '@oleaje/core/project/chain-edits'
import { renameProject } from '@oleaje/core/project/song-edits'
import { ChevronDown, Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Name and state of the document, the views, undo, and A/B/Dry. */
const session = useSession()
const { doc, selection, monitoring, screen, preferences } = session
const unkept = computed(() =>
  doc.unkeptSounds === 1 ? '1 sound not saved' : `${doc.unkeptSounds} sounds not saved`,
)
const saved = computed(
  () =>
    ({
      'saved': doc.unkeptSounds ? unkept.value : 'saved',
      'saving': 'saving',
      'unsaved': 'saving',
      'memory only': 'not saved',
      'read only': 'read-only',
    })[doc.saveState],
)

const views = [
  { to: '/', name: 'Bench', key: 'B', tip: 'Build and monitor chains' },
  { to: '/timeline', name: 'Timeline', key: 'T', tip: 'Edit notes, curves, sections and recorded rides' },
  { to: '/links', name: 'Links', key: 'K', tip: 'See and edit all links in one table' },
  {
    to: '/try-outs',
    name: 'Try-outs',
    key: 'Shift+V',
    tip: 'Compare variants of a chain, and one chain on many sounds',
  },
  { to: '/shelf', name: 'Shelf', key: 'F', tip: 'Preview and insert shipped and kept presets' },
  { to: '/lab', name: 'Lab', key: 'Shift+M', tip: 'Measure chains with test signals' },
  { to: '/render', name: 'Render', key: 'R', tip: 'Render mix, stems and sections to files' },
]

const projectActions = [
  [
    { text: 'New project', tip: 'Starts an empty project', run: () => void session.library.newProject() },
    {
      text: 'Projects…',
      tip: 'Opens, imports, exports and removes projects',
      keys: 'P',
      run: () => {
        screen.dialog = 'projects'
      },
    },
  ],
  [
    {
      text: 'Save to file',
      tip: 'Saves the project with its sounds as one zip file',
      keys: 'Ctrl+S',
      run: () => void session.library.saveToFile(),
    },
  ],
]

const matched = computed(() => {
  const { matching, matchDb } = monitoring
  const sign = matchDb > 0 ? '+' : matchDb < 0 ? '−' : ''
  return matching ? `${sign}${Math.abs(matchDb).toFixed(1)} LU` : ''
})
function listenTo(state: 'a' | 'b'): void {
  monitoring.hearDry = false
  if (selection.track) doc.edit('Switch A/B', hear(selection.track.id, state), true)
}
const helpActions = computed(() => [
  [
    {
      text: 'Guide',
      tip: 'Walk-throughs, reference and glossary, to read beside the work',
      keys: 'F1',
      on: screen.guide,
      run: () => {
        screen.guide = !screen.guide
      },
    },
    {
      text: 'Keys',
      tip: 'Lists all keys',
      keys: '?',
      run: () => {
        screen.dialog = 'keys'
      },
    },
    {
      text: 'First steps',
      tip: 'Shows the six first steps again',
      run: () => {
        preferences.firstSteps = { done: [], hidden: false }
      },
    },
  ],
  [
    {
      text: 'Licences',
      tip: 'The licences of Oleaje and of its packages',
      run: () => {
        screen.dialog = 'licences'
      },
    },
  ],
])
</script>

<template>
  <header class="flex h-10.75 items-center gap-2 border-b border-ink px-3">
    <h1 class="water-name text-title leading-none font-medium">Oleaje</h1>
    <TextField
      class="w-24 truncate bg-transparent text-second"
      :value="doc.project?.name"
      aria-label="Project name"
      title="Type a new name"
      @change="doc.edit('Rename project', renameProject(($event.target as HTMLInputElement).value))"
      @keydown.stop
    />
    <ActionMenu small label="Project" tip="New, open, save to a file" :groups="projectActions">
      <ChevronDown :size="13" aria-hidden="true" />
    </ActionMenu>
    <span
      class="w-16 truncate text-small text-second"
      role="status"
      data-testid="save-state"
      :title="doc.saveState === 'memory only' ? 'Kept in this tab only. Save the project to a file.' : ''"
      >{{ saved }}</span
    >
    <nav class="flex gap-1" aria-label="Views">
      <NuxtLink
        v-for="v in views"
        :key="v.to"
        :to="v.to"
        class="px-1.5 py-1 font-medium whitespace-nowrap"
        active-class="view-now"
        :title="`${v.tip} (${v.key})`"
      >
        {{ v.name }}
        <span v-if="v.to === '/links'" class="ml-0.5 text-second">{{ doc.project?.links.length ?? 0 }}</span>
      </NuxtLink>
    </nav>
    <span class="flex-1" />
    <button
      class="plain-button"
      :disabled="!doc.undoLabel"
      aria-label="Undo"
      :title="doc.undoLabel ? `Undo: ${doc.undoLabel} (Ctrl+Z)` : 'Nothing to undo (Ctrl+Z)'"
      @click="stepBack(session)"
    >
      <Undo2 :size="15" aria-hidden="true" />
    </button>
    <button
      class="plain-button"
      :disabled="!doc.redoLabel"
      aria-label="Redo"
      :title="doc.redoLabel ? `Redo: ${doc.redoLabel} (Ctrl+Shift+Z)` : 'Nothing to redo (Ctrl+Shift+Z)'"
      @click="stepForward(session)"
    >
      <Redo2 :size="15" aria-hidden="true" />
    </button>
    <div v-if="selection.track" class="flex" role="group" aria-label="Compare">
      <button
        v-for="s in ['a', 'b'] as const"
        :key="s"
        class="plain-button -ml-px rounded-none uppercase"
        :aria-pressed="!monitoring.hearDry && selection.track.heard === s"
        :title="`Plays and edits version ${s.toUpperCase()} of this chain (C)`"
        @click="listenTo(s)"
      >
        {{ s.toUpperCase() }}
      </button>
      <button
        class="plain-button -ml-px rounded-none"
        :aria-pressed="monitoring.hearDry"
        title="Plays the source without the chain (V)"
        @click="monitoring.hearDry = !monitoring.hearDry"
      >
        Dry
      </button>
    </div>
    <button
      class="w-20 text-left text-tiny leading-tight text-second"
      :aria-pressed="monitoring.matching"
      title="Compares A, B and dry at equal loudness"
      @click="monitoring.matching = !monitoring.matching"
    >
      {{ monitoring.matching ? 'level-matched' : 'unmatched' }}<br /><b
        class="text-ink"
        data-testid="matched"
        >{{ matched }}</b
      >
    </button>
    <button
      v-if="selection.track"
      class="small-button"
      :disabled="!selection.track.b"
      :title="selection.track.heard === 'a' ? 'Copies A to B' : 'Copies B to A'"
      @click="selection.track && doc.edit('Copy to the other version', copyToOther(selection.track.id))"
    >
      {{ selection.track.heard === 'a' ? 'A → B' : 'B → A' }}
    </button>
    <button
      class="small-button"
      title="Switches between day and night colours (N)"
      :aria-label="preferences.night ? 'Switch to day' : 'Switch to night'"
      @click="preferences.night = !preferences.night"
    >
      <component :is="preferences.night ? Sun : Moon" :size="14" aria-hidden="true" />
    </button>
    <ActionMenu small label="Help" tip="Guide, keys, first steps, licences" :groups="helpActions"
      >?</ActionMenu
    >
  </header>
</template>

<style scoped>
.view-now {
  border-bottom: 3px solid var(--magenta);
}
</style>
