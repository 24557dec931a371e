<script setup lang="ts">
import { fileOpen } from 'browser-fs-access'
import { computed, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import { listProjects } from '../../storage/database'

/** The projects that this browser keeps, and the ways to another one. */
const session = useSession()
const { doc, screen } = session
const kept = ref<Awaited<ReturnType<typeof listProjects>>>([])
const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })

async function refresh(): Promise<void> {
  kept.value = await listProjects().catch(() => [])
}
const demos = ref<readonly { id: string; name: string }[]>([])
const { keeping } = session
const said = ref('')
const size = (bytes: number): string =>
  bytes > 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${Math.round(bytes / 1e6)} MB`
const storage = computed(() => {
  const room = keeping.room.value
  if (!room) return 'This browser does not report its storage.'
  const kept = room.isKept
    ? 'Storage is persistent.'
    : 'The browser may clear it when space is low: export everything from time to time.'
  return `Storage: ${size(room.used)} used, ${size(room.free)} free. ${kept}`
})

async function everything(what: () => Promise<string | void>): Promise<void> {
  said.value = ''
  try {
    said.value = (await what()) ?? ''
  } catch (error) {
    doc.trouble = sentence(error)
  }
  await Promise.all([refresh(), keeping.measure(), session.shelf.open()])
}

onMounted(async () => {
  await refresh()
  await keeping.measure()
  demos.value = (await session.ships.catalogue().catch(() => undefined))?.projects ?? []
})

async function go(what: () => Promise<void>): Promise<void> {
  try {
    await what()
    screen.dialog = ''
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

async function fromFile(): Promise<void> {
  const file = await fileOpen({
    extensions: ['.zip', '.json'],
    description: 'Oleaje bundle or project',
  }).catch(() => undefined)
  if (file) await go(() => session.library.takeFiles([file]))
}

async function remove(id: string): Promise<void> {
  await session.library.remove(id).catch((error: unknown) => {
    doc.trouble = sentence(error)
  })
  await refresh()
}
</script>

<template>
  <BaseDialog title="Projects" @close="screen.dialog = ''">
    <div class="mb-3 flex gap-2">
      <button class="plain-button" @click="go(() => session.library.newProject())">New</button>
      <button class="plain-button" @click="fromFile">Open file…</button>
      <button class="plain-button" @click="go(() => session.library.openDemo(true))">Reset demo</button>
    </div>
    <div role="group" aria-label="Examples" class="mb-3 flex flex-wrap items-center gap-2 text-small">
      <span class="text-second">Examples:</span
      ><button
        v-for="d in demos"
        :key="d.id"
        class="small-button"
        @click="go(() => session.library.openDemo(false, d.id))"
      >
        {{ d.name }}
      </button>
    </div>
    <ul class="max-h-[45vh] overflow-y-auto">
      <li
        v-for="p in kept"
        :key="p.id"
        class="flex items-center gap-2 border-b border-dotted border-line py-1"
      >
        <button
          class="flex-1 text-left"
          :class="{ 'font-semibold': p.id === doc.project?.id }"
          @click="go(() => session.library.openStored(p.id))"
        >
          {{ p.name }}
        </button>
        <span class="text-small text-second">{{ date.format(p.saved) }}</span>
        <button
          class="small-button"
          :aria-label="`Remove ${p.name}`"
          :disabled="p.id === doc.project?.id"
          :title="p.id === doc.project?.id ? 'This project is open' : 'Removes the project from this browser'"
          @click="remove(p.id)"
        >
          Remove
        </button>
      </li>
    </ul>
    <div class="mt-3 flex flex-wrap items-center gap-2 text-small">
      <span class="basis-full text-second">{{ storage }}</span>
      <button
        class="small-button"
        title="Saves all projects, presets and sounds of this browser to one file"
        @click="everything(() => keeping.exportAll())"
      >
        Export everything…
      </button>
      <button
        class="small-button"
        title="Restores projects, presets and sounds from such a file"
        @click="everything(() => keeping.importAll())"
      >
        Import everything…
      </button>
    </div>
    <p v-if="said" role="status" class="mt-1 text-small">
      {{ said }}
    </p>
  </BaseDialog>
</template>
