<script setup lang="ts">
import { setLoop, setTempo } from '@oleaje/core/project/song-edits'
import { tempo } from '@oleaje/core/units/parameter'
import { Disclosure, DisclosureButton, DisclosurePanel } from '../ui/parts/disclosure'
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'

/** Play, loop, tempo, where the song is, and what the engine costs. */
const session = useSession()
const { doc, host, monitoring, notices } = session
const place = ref<HTMLElement | null>(null)
const cost = ref<HTMLElement | null>(null)
let shown = 0
const tempoSpec = tempo('Tempo in bpm', 120)

useFrame((now) => {
  const t = host.telemetry
  const bar = doc.project?.beatsPerBar ?? 4
  const beat = t.fixed('beat')
  const sixteenths = String(Math.floor((beat % 1) * 16) + 1).padStart(2, '0')
  if (place.value)
    place.value.textContent = `${Math.floor(beat / bar) + 1}.${Math.floor(beat % bar) + 1}.${sixteenths}`
  if (!cost.value || now - shown < 500) return
  shown = now
  const limiter = t.fixed('limiter')
  const latency = t.fixed('latency')
  const dropouts = host.dropouts ?? 0
  if (notices.noOutput) {
    cost.value.textContent = 'no audio output'
    return
  }
  if (monitoring.starting || (monitoring.playing && t.fixed('playing') < 1)) {
    cost.value.textContent = monitoring.starting ? 'waiting for sounds…' : 'getting ready…'
    return
  }
  cost.value.textContent = [
    `engine ${(t.fixed('load') * 100).toFixed(0)} %`,
    `latency ${((latency / (doc.project?.sampleRate ?? 48_000)) * 1000).toFixed(1)} ms`,
    dropouts > 0 ? `${dropouts} ${dropouts === 1 ? 'dropout' : 'dropouts'}` : '',
    limiter < 0.999 && limiter > 0
      ? `safety limiter ${(20 * Math.log10(limiter)).toFixed(1).replace('-', '−')} dB`
      : '',
  ]
    .filter(Boolean)
    .join(' · ')
})
</script>

<template>
  <section class="flex h-full flex-col gap-0.75 px-3 py-2" aria-label="Transport">
    <div class="flex gap-2">
      <button
        class="plain-button min-w-14.5"
        :aria-pressed="monitoring.playing || monitoring.starting"
        title="Plays and stops (Space)"
        @click="session.transport.toggle()"
      >
        {{ monitoring.playing ? 'Stop' : monitoring.starting ? 'Cancel' : 'Play' }}
      </button>
      <button
        class="plain-button"
        :aria-pressed="doc.project?.loop.on"
        title="Loops between the marks (L)"
        @click="doc.edit('Switch the loop', setLoop({ on: !doc.project?.loop.on }))"
      >
        Loop
      </button>
    </div>
    <div class="flex items-baseline gap-2">
      <span
        ref="place"
        class="text-place font-semibold tracking-wide"
        aria-label="Song position: bar, beat, sixteenth part of a beat"
        >1.1.01</span
      >
      <label class="text-second"
        ><ValueField
          class="w-14.5"
          :spec="tempoSpec"
          :value="doc.project?.tempo ?? 120"
          @take="doc.edit('Set tempo', setTempo($event))"
        />
        bpm</label
      >
    </div>
    <div class="flex gap-2">
      <button
        class="small-button"
        :title="
          monitoring.stopCuts
            ? 'Stop cuts tails; press to let them ring out'
            : 'Stop lets tails ring out; press to cut them'
        "
        :aria-pressed="monitoring.stopCuts"
        aria-label="Stop cuts tails"
        @click="monitoring.stopCuts = !monitoring.stopCuts"
      >
        stop cuts
      </button>
      <button
        class="small-button"
        title="Silences all that rings; what plays goes on (Q)"
        aria-label="Silence all that rings"
        @click="host.silence()"
      >
        silence
      </button>
    </div>
    <Disclosure>
      <DisclosureButton
        class="text-left text-tiny text-second underline decoration-dotted"
        title="Shows what each track and effect costs, and sets the buffer at the output"
      >
        <span ref="cost">engine</span>
      </DisclosureButton>
      <DisclosurePanel class="fixed bottom-33 left-3 z-30"><CostPanel /></DisclosurePanel>
    </Disclosure>
  </section>
</template>
