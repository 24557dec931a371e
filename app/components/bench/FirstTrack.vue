<script setup lang="ts">
import { sourceDefinition, sources } from '@oleaje/core/sources/index'
import { fileOpen } from 'browser-fs-access'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import type { ShippedSound } from '../../storage/shipped'

/**
 * Ways to a track: the sounds that ship with Oleaje, each to be heard before it is taken, a file, the input,
 * test signals.
 */
const emit = defineEmits<{ taken: [] }>()
const { doc, library, sounds, screen } = useSession()
const ways = sources.flatMap(({ id, fromSound }) => (fromSound ? [{ value: id, text: fromSound }] : []))
const beginnings = sources.flatMap(({ id, begins }) => (begins ? [{ id, ...begins }] : []))
/** What to make of a sound: asked for unless it takes the place of another. */
const asks = computed(() => screen.replacing === null)
const shipped = ref<readonly ShippedSound[]>([])
const heard = ref('')
const seconds = (s: ShippedSound): string => `${(s.frames / 48_000).toFixed(1)} s`

onMounted(async () => {
  shipped.value = await sounds.shipped().catch(() => [])
})
onBeforeUnmount(() => sounds.hush())

async function attempt(what: () => Promise<unknown>): Promise<void> {
  try {
    await what()
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

async function listen(s: ShippedSound): Promise<void> {
  if (heard.value === s.hash) {
    heard.value = ''
    return sounds.hush()
  }
  heard.value = s.hash
  await attempt(() => sounds.listen(s.hash))
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
    <div v-if="asks" class="mb-2 flex items-center gap-2" role="group" aria-label="What to make of a sound">
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
    <ul aria-label="Shipped sounds" class="max-h-[46vh] overflow-y-auto">
      <li
        v-for="s in shipped"
        :key="s.hash"
        class="flex items-center gap-2 border-b border-dotted border-line py-1"
      >
        <span class="min-w-0 flex-1 truncate"
          >{{ s.title }} <span class="text-second">{{ seconds(s) }}</span></span
        >
        <button
          class="small-button"
          :aria-pressed="heard === s.hash"
          :aria-label="`Preview ${s.title}`"
          title="Plays the sound once"
          @click="listen(s)"
        >
          {{ heard === s.hash ? 'Stop' : 'Preview' }}
        </button>
        <button
          class="small-button"
          :aria-label="`Take ${s.title}`"
          title="Adds the sound to the project"
          @click="take(s)"
        >
          Take
        </button>
      </li>
    </ul>
  </div>
</template>
