<script setup lang="ts">
import { fileOpen, fileSave } from 'browser-fs-access'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import type { TakingWay } from '../../services/shelf'
import type { KeptPreset } from '../../storage/database'

/**
 * What is kept in this browser: found as one types, heard before it is taken, renamed, removed, exported and
 * from them.
 */
const { doc, library, shelf, screen } = useSession()
const query = ref('')
const heard = ref('')
const shown = computed(() =>
  rankFound(
    query.value,
    shelf.items.value.map((kept) => ({
      kept,
      name: kept.preset.name,
      words: [...kept.preset.tags, kept.preset.kind],
      tip: '',
    })),
  ).map((f) => f.kept),
)
const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' })

onMounted(() => shelf.open())
onBeforeUnmount(() => shelf.hush())

const count = (n: number, what: string): string => (n ? `${n} ${what}${n === 1 ? '' : 's'}` : '')
const holds = ({ preset }: KeptPreset): string =>
  [count(preset.chain.nodes.length, 'effect'), count(preset.modulators.length, 'modulator')]
    .filter(Boolean)
    .join(', ')

async function listen(kept: KeptPreset): Promise<void> {
  if (heard.value === kept.id) {
    heard.value = ''
    return shelf.hush()
  }
  heard.value = kept.id
  try {
    await shelf.listen(kept.preset)
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

const ways: readonly { way: TakingWay; text: string; tip: string }[] = [
  { way: 'after', text: 'Insert', tip: 'Inserts it after the selection (Enter)' },
  { way: 'around', text: 'Split beside', tip: 'Splits and puts it beside the selection' },
  { way: 'instead', text: 'Replace', tip: 'Replaces the selection' },
  { way: 'new track', text: 'On new track', tip: 'Adds a track with the same sound and this chain' },
]
const waysOf = ({ preset }: KeptPreset) => (preset.kind === 'modulators' ? ways.slice(0, 1) : ways)

function take(kept: KeptPreset | undefined, way: TakingWay): void {
  if (!kept) return
  screen.dialog = ''
  shelf.take(kept.preset, way)
}

async function toFile({ preset }: KeptPreset): Promise<void> {
  const blob = new Blob([JSON.stringify(preset, null, 1)], { type: 'application/json' })
  await fileSave(blob, {
    fileName: `${preset.name}.json`,
    extensions: ['.json'],
    description: 'Oleaje preset',
  }).catch(() => {})
}

async function fromFile(): Promise<void> {
  const files = await fileOpen({
    extensions: ['.json'],
    description: 'Oleaje presets',
    multiple: true,
  }).catch(() => [])
  await library.takeFiles(files)
}
</script>

<template>
  <BaseDialog title="Shelf" wide @close="screen.dialog = ''">
    <div class="mb-2 flex gap-2">
      <input
        v-model="query"
        class="field min-w-0 flex-1"
        type="search"
        placeholder="Search names, tags and effects"
        aria-label="Search the shelf"
        @keydown.enter="take(shown[0], 'after')"
      />
      <button class="plain-button" title="Imports preset files" @click="fromFile">Import files…</button>
    </div>
    <p v-if="!shelf.items.value.length" class="py-2 text-second">
      Nothing kept yet. On the Bench, Shift+F keeps the selected effect, branch or modulator, or the whole
      chain.
    </p>
    <ul class="max-h-[56vh] overflow-y-auto" aria-label="Kept">
      <li
        v-for="k in shown"
        :key="k.id"
        class="flex flex-wrap items-center gap-2 border-b border-dotted border-line py-1"
      >
        <TextField
          class="min-w-37.5 flex-1 bg-transparent font-semibold"
          :value="k.preset.name"
          :aria-label="`Name of ${k.preset.name}`"
          @change="shelf.rename(k, ($event.target as HTMLInputElement).value)"
        />
        <span class="text-small text-second" :title="k.preset.tags.join(', ')"
          >{{ holds(k) }} · {{ date.format(k.saved) }}</span
        >
        <button
          v-if="k.preset.kind !== 'modulators'"
          class="small-button"
          :aria-pressed="heard === k.id"
          :aria-label="`Preview ${k.preset.name}`"
          title="Plays it on the sound of this track, level-matched"
          @click="listen(k)"
        >
          {{ heard === k.id ? 'Stop' : 'Preview' }}
        </button>
        <button
          v-for="w in waysOf(k)"
          :key="w.way"
          class="small-button"
          :aria-label="`${w.text}: ${k.preset.name}`"
          :title="w.tip"
          @click="take(k, w.way)"
        >
          {{ w.text }}
        </button>
        <button
          class="small-button"
          :aria-label="`Export ${k.preset.name}`"
          title="Saves the preset to a file"
          @click="toFile(k)"
        >
          Export
        </button>
        <button
          class="small-button"
          :aria-label="`Remove ${k.preset.name}`"
          title="Removes it from the shelf. Undo restores it."
          @click="shelf.remove(k)"
        >
          Remove
        </button>
      </li>
    </ul>
  </BaseDialog>
</template>
