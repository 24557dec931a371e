<script setup lang="ts">
import { removeTrack } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import type { Track } from '@oleaje/core/project/schema'
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { sourceFace } from '../pictures/index'

/** The tracks: what plays, how loud it is, and whether it is heard. */
const session = useSession()
const { doc, bench, host } = session
const list = ref<HTMLElement | null>(null)
const sourceOpen = ref(false)
const sourceParams = (t: Track): string[] => Object.keys(sourceDefinition(t.source?.type ?? '')?.params ?? {})

let told = 0
useFrame((now) => {
  if (!list.value) return
  const number = now - told > 120
  if (number) told = now
  for (const el of list.value.querySelectorAll<HTMLElement>('[data-track]')) {
    const peak = host.telemetry.get(`peak:track:${el.dataset.track}`)
    const db = peak > 0.00003 ? 20 * Math.log10(peak) : -90
    const bar = el.querySelector<HTMLElement>('[data-bar]')
    if (bar) bar.style.transform = `scaleX(${Math.max(0, Math.min(1, (db + 60) / 60))})`
    const text = el.querySelector<HTMLElement>('[data-db]')
    if (number && text) text.textContent = db < -80 ? '−∞' : db.toFixed(1).replace('-', '−')
  }
})

const describe = (t: Track): string => (doc.project ? sourceSummary(doc.project, t) : '')
</script>

<template>
  <section ref="list" class="flex h-full flex-col overflow-y-auto" aria-label="Tracks" data-region="tracks">
    <header class="flex items-center justify-between px-3 pb-1 pt-2">
      <h2 class="panel-title">Tracks</h2>
      <button class="plain-button" title="A new track: a shipped sound, a file, the input, test signals" @click="bench.dialog = 'track'">Add</button>
    </header>
    <article
      v-for="t in doc.project?.tracks" :key="t.id" :data-track="t.id" class="border-b border-line border-l-3 px-2 py-[4px]"
      :class="bench.track?.id === t.id ? 'border-l-ink bg-sheet' : 'border-l-transparent'"
    >
      <div class="flex items-center gap-1">
        <button class="min-w-0 flex-1 text-left" :aria-current="bench.track?.id === t.id" @click="bench.selectTrack(t.id)">
          <span class="block truncate font-semibold">{{ t.name }}</span>
          <span class="block truncate text-[12px] text-second">{{ describe(t) }}</span>
        </button>
        <button class="small-button" :aria-pressed="(t.params.mute ?? 0) >= 0.5" :title="`Mute ${t.name}`" :aria-label="`Mute ${t.name}`" @click="doc.edit(`Mute ${t.name}`, setParam(t.id, 'mute', (t.params.mute ?? 0) >= 0.5 ? 0 : 1))">M</button>
        <button v-if="t.kind === 'track'" class="small-button" :aria-pressed="bench.soloTracks.includes(t.id)" :title="`Hear ${t.name} alone; not part of a render`" :aria-label="`Solo ${t.name}`" @click="bench.toggleSoloTrack(t.id)">S</button>
      </div>
      <div class="flex items-center gap-2">
        <div class="h-[4px] flex-1 bg-shoal"><div data-bar class="h-full origin-left bg-deep will-change-transform" style="transform: scaleX(0)" /></div>
        <span data-db class="w-9 text-right text-[12px] text-second">−∞</span>
      </div>
      <component :is="sourceFace(t.source.type).controls" v-if="t.source && sourceFace(t.source.type).controls" :track="t" />
      <div v-if="bench.track?.id === t.id" class="mt-1 text-[13px]">
        <MiniGauge :owner="t.id" param="level" /><MiniGauge :owner="t.id" param="pan" />
        <template v-if="t.source && sourceOpen"><MiniGauge v-for="k in sourceParams(t)" :key="k" :owner="t.source.id" :param="k" /></template>
        <div v-if="t.kind === 'track'" class="mt-1 flex gap-3 text-[12px] text-second">
          <button class="underline" :aria-expanded="sourceOpen" @click="sourceOpen = !sourceOpen">{{ sourceOpen ? 'Close source' : 'Source' }}</button>
          <button class="underline" @click="doc.edit(`Remove track ${t.name}`, removeTrack(t.id))">Remove track</button>
        </div>
      </div>
    </article>
  </section>
</template>
