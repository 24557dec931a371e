<script setup lang="ts">
import { fileOpen, fileSave } from 'browser-fs-access'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import type { TakingWay } from '../../services/shelf'
import type { KeptPreset } from '../../storage/database'

/**
 * What is kept in this browser: found as one types, heard before it is taken, renamed, removed, to files and
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
  { way: 'after', text: 'Take', tip: 'Into the chain, behind what is selected (Enter)' },
  { way: 'around', text: 'around', tip: 'Beside what is selected, in a split' },
  { way: 'instead', text: 'instead', tip: 'In place of what is selected' },
  { way: 'new track', text: 'new track', tip: 'Onto a new track with the same sound' },
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
        placeholder="name, tag, effect inside …"
        aria-label="Search the shelf"
        @keydown.enter="take(shown[0], 'after')"
      />
      <button
        class="plain-button"
        title="Presets that were exported, from here or from somebody else"
        @click="fromFile"
      >
        From files…
      </button>
    </div>
    <p v-if="!shelf.items.value.length" class="py-2 text-second">
      Nothing is kept yet. On the Bench, Shift+F keeps what has the focus: effects, a branch, a modulator, a
      macro, a whole chain.
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
          :aria-label="`Listen to ${k.preset.name}`"
          title="Over the sound of this track, as loud as that is by itself"
          @click="listen(k)"
        >
          {{ heard === k.id ? 'Stop' : 'Listen' }}
        </button>
        <button
          v-for="w in waysOf(k)"
          :key="w.way"
          class="small-button"
          :aria-label="`${w.text === 'Take' ? 'Take' : `Take ${w.text}:`} ${k.preset.name}`"
          :title="w.tip"
          @click="take(k, w.way)"
        >
          {{ w.text }}
        </button>
        <button
          class="small-button"
          :aria-label="`Export ${k.preset.name}`"
          title="To a file, for another browser or somebody else"
          @click="toFile(k)"
        >
          to file
        </button>
        <button
          class="small-button"
          :aria-label="`Remove ${k.preset.name}`"
          title="Off the shelf; can be brought back"
          @click="shelf.remove(k)"
        >
          Remove
        </button>
      </li>
    </ul>
  </BaseDialog>
</template>
