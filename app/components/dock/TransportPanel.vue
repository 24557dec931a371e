<script setup lang="ts">
import { setLoop, setTempo } from '@oleaje/core/project/song-edits'
import { tempo } from '@oleaje/core/units/parameter'
import { Popover, PopoverButton, PopoverPanel } from '../ui/parts/popover'
import { computed, ref } from 'vue'
import { ChevronDown } from '@lucide/vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'

/** Play, loop, tempo, the song position, and the load of the engine. */
defineProps<{ folded?: boolean }>()
const session = useSession()
const { doc, host, monitoring, notices } = session
const place = ref<HTMLElement | null>(null)
const cost = ref<HTMLElement | null>(null)
let shown = 0
const tempoSpec = tempo('Tempo', 120)
const tails = computed(() => [
  [
    {
      text: 'Cut tails on stop',
      tip: 'Stops reverbs and echoes together with the song',
      on: monitoring.stopCuts,
      run: () => {
        monitoring.stopCuts = !monitoring.stopCuts
      },
    },
    {
      text: 'Stop all tails',
      tip: 'Stops everything that rings; playback continues',
      keys: 'Q',
      run: () => host.silence(),
    },
  ],
])

useFrame((now) => {
  const t = host.telemetry
  const bar = doc.project?.beatsPerBar ?? 4
  const beat = session.transport.place()
  const sixteenths = String(Math.floor((beat % 1) * 16) + 1).padStart(2, '0')
  if (place.value)
    place.value.textContent = `${Math.floor(beat / bar) + 1}.${Math.floor(beat % bar) + 1}.${sixteenths}`
  if (!cost.value || now - shown < 500) return
  shown = now
  const limiter = t.fixed('limiter')
  const latency = t.fixed('latency')
  const dropouts = host.dropouts ?? 0
  if (notices.noOutput) {
    cost.value.textContent = 'waiting for audio output'
    return
  }
  if (monitoring.starting || (monitoring.playing && t.fixed('playing') < 1)) {
    cost.value.textContent = monitoring.starting ? 'loading sounds…' : 'preparing…'
    return
  }
  cost.value.textContent = [
    `CPU ${(t.fixed('load') * 100).toFixed(0)} %`,
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
  <section
    class="flex min-h-0 gap-1 px-3"
    :class="folded ? 'items-center' : 'flex-col py-2'"
    aria-label="Transport"
  >
    <div class="flex gap-2">
      <button
        class="plain-button min-w-14.5"
        :aria-pressed="monitoring.playing || monitoring.starting"
        title="Starts or stops playback (Space)"
        @click="session.transport.toggle()"
      >
        {{ monitoring.playing ? 'Stop' : monitoring.starting ? 'Cancel' : 'Play' }}
      </button>
      <button
        class="plain-button"
        :aria-pressed="doc.project?.loop.on"
        title="Repeats the song between the loop marks (L)"
        @click="doc.edit('Switch the loop', setLoop({ on: !doc.project?.loop.on }))"
      >
        Loop
      </button>
    </div>
    <div v-if="!folded" class="flex items-baseline gap-2">
      <span
        ref="place"
        class="text-place font-semibold tracking-wide"
        aria-label="Song position in bars, beats and sixteenths of a beat"
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
    <ActionMenu
      v-if="!folded"
      class="self-start"
      small
      label="Tails"
      tip="What happens to reverbs and echoes"
      :groups="tails"
    >
      <span class="inline-flex items-center gap-1 px-1"
        >{{ monitoring.stopCuts ? 'Stop cuts tails' : 'Tails ring out'
        }}<ChevronDown :size="12" aria-hidden="true"
      /></span>
    </ActionMenu>
    <Popover v-if="!folded">
      <PopoverButton
        class="text-left text-tiny text-second underline decoration-dotted"
        title="Shows CPU by track and effect, and the output settings"
      >
        <span ref="cost">CPU</span>
      </PopoverButton>
      <PopoverPanel class="fixed bottom-34 left-3 z-40"><CostPanel /></PopoverPanel>
    </Popover>
  </section>
</template>
