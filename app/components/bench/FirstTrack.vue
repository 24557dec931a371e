<script setup lang="ts">
import { sourceDefinition, sources } from '@oleaje/core/sources/index'
import { fileOpen } from 'browser-fs-access'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import type { ShippedSound, StartingChain } from '../../storage/shipped'

/**
 * Ways to a track: the sounds that ship with Oleaje, each to be heard before it is taken, a file, the input,
 * test signals.
 */
const emit = defineEmits<{ taken: [] }>()
const { doc, library, sounds, screen } = useSession()
const ways = sources.flatMap(({ id, fromSound }) => (fromSound ? [{ value: id, text: fromSound }] : []))
const beginnings = sources.flatMap(({ id, begins }) => (begins ? [{ id, ...begins }] : []))
/** Whether the use of a sound is asked for: not when it replaces another. */
const asks = computed(() => screen.replacing === null)
const shipped = ref<readonly ShippedSound[]>([])
const chains = ref<readonly StartingChain[]>([])
/** Sounds alone, or sounds with a chain. */
const tab = ref<'sounds' | 'chains'>('sounds')
const tabs = [
  ['sounds', 'Sounds'],
  ['chains', 'Starting chains'],
] as const
const heard = ref('')
const seconds = (s: ShippedSound): string => `${(s.frames / 48_000).toFixed(1)} s`

onMounted(async () => {
  shipped.value = await sounds.shipped().catch(() => [])
  chains.value = await library.startingChains().catch(() => [])
})
onBeforeUnmount(() => sounds.hush())

async function attempt(what: () => Promise<unknown>): Promise<void> {
  try {
    await what()
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

/** Starts a preview, or stops it where it is the one that plays. */
async function preview(key: string, start: () => Promise<unknown>): Promise<void> {
  if (heard.value === key) {
    heard.value = ''
    return sounds.hush()
  }
  heard.value = key
  await attempt(start)
}
const listen = (s: ShippedSound): Promise<void> => preview(s.hash, () => sounds.listen(s.hash))
const listenToChain = (c: StartingChain): Promise<void> => preview(c.track, () => library.listenToChain(c))

async function takeChain(c: StartingChain): Promise<void> {
  sounds.hush()
  // the page waits for the sound, not this dialog
  const added = attempt(() => library.addStartingChain(c))
  emit('taken')
  await added
}

async function take(s: ShippedSound): Promise<void> {
  sounds.hush()
  await attempt(() => library.addShipped(s))
  // pads are taken one after the other
  if (screen.takeAs !== 'pad') emit('taken')
}

async function fromFile(): Promise<void> {
  const extensions = ['.wav', '.aif', '.aiff', '.flac', '.mp3', '.ogg', '.m4a']
  const files = await fileOpen({
    mimeTypes: ['audio/*'],
    extensions,
    description: 'Sound',
    multiple: true,
  }).catch(() => [])
  // what takes long is waited for by the page, not by this dialog; pads come one after the other
  const goesOn = screen.takeAs === 'pad' || sourceDefinition(screen.takeAs)?.pads
  const taken = library.takeFiles(files)
  if (files.length && !goesOn) emit('taken')
  await taken
  if (files.length && goesOn && screen.takeAs !== 'pad') emit('taken')
}

function add(what: () => void): void {
  what()
  emit('taken')
}
</script>

<template>
  <div>
    <div class="mb-3 flex flex-wrap gap-2">
      <button
        class="plain-button"
        title="Imports WAV, AIFF, FLAC, MP3, Ogg and others that this browser decodes"
        @click="fromFile"
      >
        Sound from a file…
      </button>
      <button
        v-for="b in beginnings"
        :key="b.id"
        class="plain-button"
        :title="b.tip"
        @click="add(() => library.addSource(b.id))"
      >
        {{ b.label }}
      </button>
      <button
        class="plain-button"
        title="Adds a track that others can send to"
        @click="add(() => library.addBus())"
      >
        Bus
      </button>
    </div>
    <div v-if="asks && chains.length" class="mb-2 flex" role="group" aria-label="Shipped material">
      <button
        v-for="[value, text] in tabs"
        :key="value"
        class="segment flex-none px-3"
        :class="tab === value ? 'bg-ink text-paper' : 'bg-sheet'"
        :aria-pressed="tab === value"
        @click="tab = value"
      >
        {{ text }}
      </button>
    </div>
    <ul
      v-if="asks && tab === 'chains'"
      aria-label="Starting chains"
      class="max-h-[46vh] overflow-y-auto"
      tabindex="0"
    >
      <MaterialRow
        v-for="c in chains"
        :key="c.track"
        :name="c.name"
        :detail="c.tip"
        :is-heard="heard === c.track"
        preview-tip="Plays the chain over its sound"
        take-tip="Adds a track with the sound and the chain"
        @preview="listenToChain(c)"
        @take="takeChain(c)"
      />
    </ul>
    <div
      v-if="asks && tab === 'sounds'"
      class="mb-2 flex items-center gap-2"
      role="group"
      aria-label="What to make of a sound"
    >
      <span class="text-second">Add as</span>
      <button
        v-for="w in ways"
        :key="w.value"
        class="small-button"
        :aria-pressed="screen.takeAs === w.value"
        @click="screen.takeAs = w.value"
      >
        {{ w.text }}
      </button>
    </div>
    <ul v-if="!asks || tab === 'sounds'" aria-label="Shipped sounds" class="max-h-[46vh] overflow-y-auto">
      <MaterialRow
        v-for="s in shipped"
        :key="s.hash"
        :name="s.title"
        :detail="seconds(s)"
        :is-heard="heard === s.hash"
        preview-tip="Plays the sound once"
        take-tip="Adds the sound to the project"
        @preview="listen(s)"
        @take="take(s)"
      />
    </ul>
  </div>
</template>
