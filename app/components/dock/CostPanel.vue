<script setup lang="ts">
import { RadioGroup, RadioGroupLabel, RadioGroupOption } from '../ui/parts/radio-group'
import { costLines } from '@oleaje/core/engine/cost-lines'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * What each track and each of its effects costs the engine, measured while this is open; and how much sound
 * is kept ready.
 */
const session = useSession()
const { doc, host, selection, preferences } = session
const choices = [
  { buffer: 'short', title: 'Lowest latency, for live input and playing' },
  { buffer: 'middle', title: 'Medium latency; tolerates short bursts of load' },
  { buffer: 'long', title: 'High latency; tolerates a busy computer' },
] as const
const output = ref('')
interface Row {
  readonly id: string
  readonly track: string
  readonly name: string
  readonly depth: number
  readonly share: number
  readonly head: boolean
}
const rows = ref<Row[]>([])
const state = ref<'waiting' | 'there' | 'blind'>('waiting')

function read(): void {
  const { telemetry, dropouts } = host
  const { project } = doc
  output.value = host.isOpen
    ? [
        `Output latency ${host.deviceLatency.toFixed(0)} ms`,
        dropouts === null
          ? ''
          : `${dropouts === 0 ? 'no dropouts' : dropouts === 1 ? '1 dropout' : `${dropouts} dropouts`} since playback started`,
      ]
        .filter(Boolean)
        .join('; ')
    : ''
  if (!project) return
  if (telemetry.fixed('blocks') === 0) return
  if (telemetry.fixed('fine clock') === 0) {
    state.value = 'blind'
    return
  }
  if (!telemetry.has('cost:sum')) return
  state.value = 'there'
  const byTrack = project.tracks.map((track) => {
    const lines = costLines(project, track)
    const shares = lines.map((line) => line.keys.reduce((sum, key) => sum + telemetry.cost(key), 0))
    const own = lines.map((line, i): Row => ({
      id: line.id,
      track: track.id,
      name: line.name,
      depth: line.depth + 1,
      share: shares[i] ?? 0,
      head: false,
    }))
    const whole = lines.reduce((sum, line, i) => sum + (line.depth === 0 ? (shares[i] ?? 0) : 0), 0)
    return [
      { id: `all ${track.id}`, track: track.id, name: track.name, depth: 0, share: whole, head: true },
      ...own.filter((r) => r.share >= 0.0005).sort((a, b) => b.share - a.share),
    ]
  })
  rows.value = byTrack.sort((a, b) => (b[0]?.share ?? 0) - (a[0]?.share ?? 0)).flat()
}

function show(row: Row): void {
  selection.selectTrack(row.track)
  if (!row.head && row.id !== row.track) selection.select(row.id)
}

const outputs = ref([{ value: '', text: 'System default' }])
/** Outputs have names once the browser has allowed a device. */
async function look(): Promise<void> {
  const all = await navigator.mediaDevices.enumerateDevices().catch(() => [])
  const found = all.flatMap((d) =>
    d.kind === 'audiooutput' && d.label && d.deviceId !== 'default'
      ? [{ value: d.deviceId, text: d.label.slice(0, 40) }]
      : [],
  )
  outputs.value = [{ value: '', text: 'System default' }, ...found]
}
async function turn(device: string): Promise<void> {
  if (await host.setOutput(device)) preferences.outputDevice = device
  else doc.trouble = 'That output device is not available. Playback stays on the current one.'
}

const percent = (share: number): string => `${(share * 100).toFixed(1)} %`
let timer: ReturnType<typeof setInterval> | undefined
onMounted(() => {
  host.watchCosts(true)
  void look()
  timer = setInterval(read, 500)
})
onBeforeUnmount(() => {
  host.watchCosts(false)
  clearInterval(timer)
})
</script>

<template>
  <div class="flex max-h-[52vh] w-75 flex-col border border-ink bg-sheet p-3" aria-label="CPU and output">
    <h2 class="panel-title mb-1">CPU by effect</h2>
    <p v-if="state === 'waiting'" class="text-small text-second">Press Play to measure.</p>
    <p v-else-if="state === 'blind'" class="text-small text-second">
      This browser’s clock is too coarse to measure single effects.
    </p>
    <template v-else>
      <p class="mb-1 text-tiny text-second">Share of one CPU core. Muted tracks use none.</p>
      <ul class="min-h-0 overflow-y-auto">
        <li v-for="row in rows" :key="row.id">
          <button
            class="relative flex w-full justify-between gap-2 px-1 py-0.25 text-left text-small"
            :class="row.head ? 'mt-1 border-t border-line font-semibold' : ''"
            :style="{ paddingLeft: `${4 + row.depth * 12}px` }"
            @click="show(row)"
          >
            <span
              class="absolute inset-y-0.5 left-0 bg-shoal"
              :style="{ width: `${Math.min(100, row.share * 500)}%` }"
              aria-hidden="true"
            />
            <span class="relative truncate"> {{ row.name }}</span>
            <span class="relative whitespace-nowrap tabular-nums">{{ percent(row.share) }} </span>
          </button>
        </li>
      </ul>
    </template>
    <ChoiceField
      v-if="outputs.length > 1"
      class="mt-2"
      label="Output"
      tip="Chooses the output device"
      :model-value="preferences.outputDevice"
      :options="outputs"
      @update:model-value="turn"
    />
    <RadioGroup
      :model-value="preferences.buffer"
      class="mt-2 border-t border-line pt-2"
      @update:model-value="session.setBuffer($event)"
    >
      <div class="flex items-center gap-1">
        <RadioGroupLabel class="mr-1 font-semibold">Buffer</RadioGroupLabel>
        <RadioGroupOption v-for="{ buffer, title } in choices" :key="buffer" :value="buffer" as="template">
          <button class="small-button px-2" :title="title">{{ buffer }}</button>
        </RadioGroupOption>
      </div>
      <p class="mt-1 text-tiny text-second">{{ output }}</p>
    </RadioGroup>
  </div>
</template>
