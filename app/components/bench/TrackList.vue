<script setup lang="ts">
import { removeTrack, setSource } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { toneWaves } from '@oleaje/core/sources/tone'
import type { Track } from '@oleaje/core/project/schema'
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** The tracks: what plays, how loud it is, and whether it is heard. */
const session = useSession()
const { doc, bench, host } = session
const list = ref<HTMLElement | null>(null)
const input = ref<string>('')
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

function describe(t: Track): string {
  if (t.kind === 'mix') return 'all tracks'
  const s = t.source
  if (!s) return 'no source'
  if (s.type === 'tone') return `tone · ${toneWaves[s.params.wave ?? 0]}`
  if (s.type === 'input') return s.device === 'microphone' ? 'microphone' : 'simulated input'
  const ref = s.audio ? doc.project?.audio[s.audio] : undefined
  if (!ref || !doc.project) return 'loop'
  const bars = ref.frames / ref.sampleRate * (s.params.tempo ?? 120) / 60 / doc.project.beatsPerBar
  return `loop · ${Math.round(bars * 10) / 10} bars`
}

async function toggleInput(t: Track): Promise<void> {
  const opened = input.value === t.id
  try {
    await session.input.open(opened ? null : t.source?.device === 'microphone' ? 'microphone' : 'simulated')
    input.value = opened ? '' : t.id
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

function swapDevice(t: Track): void {
  if (!t.source) return
  doc.edit('Change input', setSource(t.id, { ...t.source, device: t.source.device === 'microphone' ? 'simulated' : 'microphone' }))
}
</script>

<template>
  <section ref="list" class="flex h-full flex-col overflow-y-auto" aria-label="Tracks">
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
      <div v-if="t.source?.type === 'input'" class="mt-1 flex gap-1">
        <button class="small-button" :aria-pressed="input === t.id" title="Opens and closes the input" @click="toggleInput(t)">{{ input === t.id ? 'Input open' : 'Open input' }}</button>
        <button class="small-button" title="Simulated line or microphone" @click="swapDevice(t)">{{ t.source.device === 'microphone' ? 'mic' : 'sim' }}</button>
        <span v-if="input === t.id" class="text-[12px] text-second">{{ host.deviceLatency.toFixed(0) }} ms</span>
      </div>
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
