<script setup lang="ts">
import { sourceDefinition } from '@oleaje/core/sources/index'
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '../ui/parts/tabs'
import { Camera, Maximize2, Minimize2, Snowflake } from '@lucide/vue'
import { fileSave } from 'browser-fs-access'
import { type Component, computed, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import FieldView from './FieldView.vue'
import HarmonicsView from './HarmonicsView.vue'
import { type ListeningView, listeningViews } from '../../stores/listening-views'
import LoudnessView from './LoudnessView.vue'
import ScopeView from './ScopeView.vue'
import SpectraView from './SpectraView.vue'
import SpectrogramView from './SpectrogramView.vue'

/** What comes in and what comes out of the selected track, looked at in several ways. */
const { host, selection, screen } = useSession()
const root = ref<HTMLElement | null>(null)
const figures = ref<HTMLElement | null>(null)
const faces: Record<ListeningView, Component> = {
  spectra: SpectraView,
  scope: ScopeView,
  spectrogram: SpectrogramView,
  field: FieldView,
  loudness: LoudnessView,
  harmonics: HarmonicsView,
}
/** Frequency of the test tone that the selected track plays; none for noise and for anything else. */
const tone = computed(() => {
  const source = selection.track?.source
  const definition = sourceDefinition(source?.type ?? '')
  return definition?.pitch?.((k) => source?.params[k] ?? definition.params[k]?.default ?? 0) ?? null
})
const views = computed(() => listeningViews.filter((v) => v.id !== 'harmonics' || tone.value !== null))
const index = computed({
  get: () =>
    Math.max(
      0,
      views.value.findIndex((v) => v.id === screen.listeningView),
    ),
  set: (i) => {
    screen.listeningView = views.value[i]?.id ?? 'spectra'
  },
})

let told = 0
useFrame((now) => {
  if (!figures.value || now - told < 250) return
  told = now
  const text = (v: number): string => (v < -80 ? '−∞' : v.toFixed(1).replace('-', '−'))
  const peak = host.telemetry.fixed('true peak')
  figures.value.textContent = `${text(host.telemetry.fixed('wet momentary'))} LUFS · ${text(20 * Math.log10(peak + 1e-9))} dBTP`
  figures.value.style.color = peak > 1 ? 'var(--magenta)' : ''
})

/** The picture as it is now, on the paper that it is drawn on. */
async function save(): Promise<void> {
  const canvas = root.value?.querySelector('canvas')
  if (!canvas) return
  const sheet = document.createElement('canvas')
  sheet.width = canvas.width
  sheet.height = canvas.height
  const g = sheet.getContext('2d')
  if (!g) return
  g.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--sheet')
  g.fillRect(0, 0, sheet.width, sheet.height)
  g.drawImage(canvas, 0, 0)
  const blob = await new Promise<Blob | null>((done) => {
    sheet.toBlob(done)
  })
  if (blob)
    await fileSave(blob, {
      fileName: `${selection.track?.name ?? 'Oleaje'}, ${screen.listeningView}.png`,
      extensions: ['.png'],
      description: 'Picture',
    }).catch(() => {})
}
</script>

<template>
  <section
    ref="root"
    class="flex h-full min-h-0 flex-col bg-paper p-2"
    :class="screen.listeningEnlarged ? 'enlarged' : ''"
    aria-label="Listening"
  >
    <TabGroup :selected-index="index" as="div" class="flex min-h-0 flex-1 flex-col" @change="index = $event">
      <header class="flex flex-wrap items-center gap-x-2 text-small">
        <TabList class="flex min-w-0 flex-wrap gap-x-2">
          <Tab v-for="v in views" :key="v.id" v-slot="{ selected }" as="template">
            <button
              :class="selected ? 'border-b-2 border-magenta font-semibold' : 'text-second'"
              :title="v.tip"
            >
              {{ v.name }}
            </button>
          </Tab>
        </TabList>
        <span class="ml-auto flex items-center gap-1">
          <button
            class="small-button"
            :aria-pressed="screen.frozen"
            aria-label="Freeze"
            title="Stops the picture as it is"
            @click="screen.frozen = !screen.frozen"
          >
            <Snowflake :size="13" aria-hidden="true" />
          </button>
          <button
            class="small-button"
            aria-label="Keep the picture"
            title="The picture as a PNG file"
            @click="save"
          >
            <Camera :size="13" aria-hidden="true" />
          </button>
          <button
            class="small-button"
            :aria-pressed="screen.listeningEnlarged"
            :aria-label="
              screen.listeningEnlarged ? 'Listening as large as before' : 'Enlarge the listening panel'
            "
            title="Over the middle, and back (Shift+Z)"
            @click="screen.listeningEnlarged = !screen.listeningEnlarged"
          >
            <component :is="screen.listeningEnlarged ? Minimize2 : Maximize2" :size="13" aria-hidden="true" />
          </button>
        </span>
      </header>
      <span
        ref="figures"
        class="text-right text-tiny whitespace-nowrap text-second"
        title="Momentary loudness, highest true peak since Play"
      />
      <TabPanels class="flex min-h-0 flex-1 flex-col">
        <TabPanel
          v-for="v in views"
          :key="v.id"
          class="flex min-h-0 flex-1 flex-col focus:outline-none"
          :tabindex="-1"
        >
          <component :is="faces[v.id]" :tone="v.id === 'harmonics' ? (tone ?? 0) : undefined" />
        </TabPanel>
      </TabPanels>
    </TabGroup>
  </section>
</template>

<style scoped>
.enlarged {
  position: fixed;
  inset: 43px 22.3% 128px 14.7%;
  z-index: 36;
  height: auto;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
</style>
