<script setup lang="ts">
import { sourceDefinition } from '@oleaje/core/sources/index'
import { Camera, ChevronDown, Maximize2, Minimize2, SlidersHorizontal, Snowflake } from '@lucide/vue'
import { fileSave } from 'browser-fs-access'
import { useElementSize } from '@vueuse/core'
import { type Component, computed, provide, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import FieldView from '../listening/FieldView.vue'
import HarmonicsView from '../listening/HarmonicsView.vue'
import { type PaneView, paneViews } from '../../stores/listening-views'
import LoudnessView from '../listening/LoudnessView.vue'
import ScopeView from '../listening/ScopeView.vue'
import SpectraView from '../listening/SpectraView.vue'
import SpectrogramView from '../listening/SpectrogramView.vue'
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '../ui/parts/tabs'
import { paneRoom } from '../listening/pane-room'
import SourceWave from './SourceWave.vue'

/** A pane of the dock: the song, or one way of looking at what the selected track plays. */
const props = defineProps<{ index: number }>()
const { host, selection, screen, preferences } = useSession()
const root = ref<HTMLElement | null>(null)
const figures = ref<HTMLElement | null>(null)
const faces: Record<PaneView, Component> = {
  song: SourceWave,
  spectra: SpectraView,
  scope: ScopeView,
  spectrogram: SpectrogramView,
  field: FieldView,
  loudness: LoudnessView,
  harmonics: HarmonicsView,
}
/** The views that have settings. */
const SET: readonly PaneView[] = ['spectra', 'scope']
/** Frequency of the test tone that the selected track plays; none for noise and for anything else. */
const tone = computed(() => {
  const source = selection.track?.source
  const definition = sourceDefinition(source?.type ?? '')
  return definition?.pitch?.((k) => source?.params[k] ?? definition.params[k]?.default ?? 0) ?? null
})
const views = computed(() => paneViews.filter((v) => v.id !== 'harmonics' || tone.value !== null))
const at = computed({
  get: () =>
    Math.max(
      0,
      views.value.findIndex((v) => v.id === preferences.paneViews[props.index]),
    ),
  set: (i) => {
    preferences.paneViews = preferences.paneViews.map((v, k) =>
      k === props.index ? (views.value[i]?.id ?? v) : v,
    )
  },
})
const view = computed(() => views.value[at.value]?.id ?? 'song')
const isSong = computed(() => view.value === 'song')
const isEnlarged = computed(() => screen.enlargedPane === props.index)
const { width } = useElementSize(root)
/** Width in px below which the tabs have no room beside the rest of the line. */
const isNarrow = computed(() => width.value > 0 && width.value < 520)
const choices = computed(() => [
  views.value.map((v, i) => ({
    text: v.name,
    tip: v.tip,
    on: i === at.value,
    run: () => {
      at.value = i
    },
  })),
])
const showsSettings = ref(false)
provide(paneRoom, { isEnlarged, showsSettings })

let shown = 0
useFrame((now) => {
  if (!figures.value || now - shown < 250) return
  shown = now
  const text = (v: number): string => (v < -80 ? '−∞' : v.toFixed(1).replace('-', '−'))
  const peak = host.telemetry.fixed('true peak')
  figures.value.textContent = `${text(host.telemetry.fixed('wet momentary'))} LUFS · ${text(20 * Math.log10(peak + 1e-9))} dBTP`
  figures.value.style.color = peak > 1 ? 'var(--magenta)' : ''
})

/** Saves the picture as it is now, on the paper that it is drawn on. */
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
      fileName: `${selection.track?.name ?? 'Oleaje'}, ${view.value}.png`,
      extensions: ['.png'],
      description: 'Picture',
    }).catch(() => {})
}
</script>

<template>
  <section
    ref="root"
    class="relative flex min-h-0 min-w-0 flex-col bg-paper"
    :class="isEnlarged ? 'enlarged' : ''"
    :aria-label="`Pane ${index + 1}`"
    data-pane
  >
    <TabGroup :selected-index="at" as="div" class="flex min-h-0 flex-1 flex-col" @change="at = $event">
      <header class="flex h-7 shrink-0 items-center gap-2 px-2 text-small">
        <TabList class="flex min-w-0 gap-x-2 overflow-hidden">
          <Tab v-for="v in views" :key="v.id" v-slot="{ selected }" as="template">
            <button
              class="whitespace-nowrap"
              :class="[
                selected ? 'border-b-2 border-magenta font-semibold' : 'text-second',
                isNarrow && !selected ? 'hidden' : '',
              ]"
              :title="v.tip"
            >
              {{ v.name }}
            </button>
          </Tab>
        </TabList>
        <ActionMenu
          v-if="isNarrow"
          small
          label="Views of the pane"
          tip="Chooses what this pane shows"
          :groups="choices"
        >
          <ChevronDown :size="12" aria-hidden="true" />
        </ActionMenu>
        <LoopFields v-if="isSong" class="ml-auto" />
        <span
          v-else
          ref="figures"
          class="ml-auto text-right text-tiny whitespace-nowrap text-second"
          title="Momentary loudness, and the highest true peak since playback started"
        />
        <template v-if="!isSong">
          <button
            v-if="SET.includes(view) && !isEnlarged"
            class="small-button"
            :aria-expanded="showsSettings"
            aria-label="View settings"
            title="Shows the settings of this view"
            @click="showsSettings = !showsSettings"
          >
            <SlidersHorizontal :size="13" aria-hidden="true" />
          </button>
          <template v-if="isEnlarged">
            <button
              class="small-button"
              :aria-pressed="screen.frozen"
              aria-label="Freeze"
              title="Freezes the picture"
              @click="screen.frozen = !screen.frozen"
            >
              <Snowflake :size="13" aria-hidden="true" />
            </button>
            <button
              class="small-button"
              aria-label="Save picture"
              title="Saves the picture as a PNG file"
              @click="save"
            >
              <Camera :size="13" aria-hidden="true" />
            </button>
          </template>
        </template>
        <button
          class="small-button"
          :aria-pressed="isEnlarged"
          :aria-label="isEnlarged ? 'Restore the pane' : 'Enlarge the pane'"
          title="Enlarges the pane over the middle, or restores it (Shift+Z)"
          @click="screen.enlargedPane = isEnlarged ? null : index"
        >
          <component :is="isEnlarged ? Minimize2 : Maximize2" :size="13" aria-hidden="true" />
        </button>
      </header>
      <TabPanels class="flex min-h-0 flex-1 flex-col" :class="isSong ? '' : 'px-2 pb-1'">
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
  inset: 43px 290px 136px 200px;
  z-index: 36;
  height: auto;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
</style>
