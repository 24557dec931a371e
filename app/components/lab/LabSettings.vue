<script setup lang="ts">
import { measurements } from '@oleaje/core/lab/measurements'
import { type LabSettings, smoothings } from '@oleaje/core/lab/settings'
import type { LabScope } from '@oleaje/core/lab/subject'
import { removeMeasurement, renameMeasurement } from '@oleaje/core/project/measurement-edits'
import { ownerName } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { Switch } from '../ui/parts/switch'

/** Which states of the chain are measured, and how; figures; measurements kept with the project. */
const { doc, lab, selection, transport } = useSession()
const { settings, scope, kind, chosen } = lab
const asks = computed(() => new Set<string>(measurements[kind.value].asks))
const tracks = computed(() => (doc.project?.tracks ?? []).map((t) => ({ value: t.id, text: t.name })))
const change = (to: Partial<LabSettings>): void => {
  settings.value = { ...settings.value, ...to }
  void lab.run()
}
const selected = computed(() => {
  const found = doc.project && selection.selectedId ? findOwner(doc.project, selection.selectedId) : undefined
  return found?.kind === 'node' ? ownerName(found) : null
})
const scopes = computed((): { value: LabScope; text: string }[] => [
  { value: 'chain', text: 'whole chain' },
  ...(selected.value
    ? [
        { value: 'up to here' as const, text: `up to ${selected.value}` },
        { value: 'effect' as const, text: `${selected.value} alone` },
        { value: 'branch' as const, text: `branch of ${selected.value}` },
      ]
    : []),
])
const part = computed({
  get: () => (scopes.value.some((s) => s.value === scope.value) ? scope.value : 'chain'),
  set: (to) => {
    scope.value = to
    void lab.run()
  },
})
const smoothing = computed({
  get: () => settings.value.smoothing,
  set: (to) => change({ smoothing: to }),
})
const widths = smoothings.map((v) => ({ value: v, text: v === 0 ? 'none' : `1/${Math.round(1 / v)} octave` }))
const modulation = computed({
  get: () => settings.value.modulation,
  set: (to) => change({ modulation: to }),
})
const modulations = [
  { value: 'frozen', text: 'frozen at a beat' },
  { value: 'running', text: 'running' },
] as const
function toggle(key: string): void {
  chosen.value = chosen.value.includes(key) ? chosen.value.filter((k) => k !== key) : [...chosen.value, key]
  void lab.run()
}
const kept = computed(() => doc.project?.measurements ?? [])
</script>

<template>
  <aside aria-label="Settings">
    <div class="grid grid-cols-[76px_1fr] items-center gap-x-2 gap-y-1.5">
      <ChoiceRow
        v-if="selection.track"
        :model-value="selection.track.id"
        text="Track"
        :options="tracks"
        @update:model-value="selection.selectTrack($event)"
      />
      <ChoiceRow v-model="part" text="Part" :options="scopes" />
      <template v-if="kind !== 'loudness'">
        <ChoiceRow v-model="modulation" text="Modulation" :options="modulations" />
        <template v-if="modulation === 'frozen'">
          <span>At beat</span>
          <NumberField
            label="Moment in beats"
            :value="settings.moment"
            :min="0"
            :max="1_000_000"
            @change="change({ moment: $event })"
          >
            <button
              class="small-button px-2"
              title="Takes the moment from the playhead"
              @click="change({ moment: Math.max(0, transport.place()) })"
            >
              Playhead
            </button>
          </NumberField>
        </template>
      </template>
      <template v-if="asks.has('level')">
        <span>Level</span>
        <NumberField
          label="Level in dBFS"
          unit="dBFS"
          :value="settings.level"
          :min="-80"
          :max="12"
          @change="change({ level: $event })"
        />
      </template>
      <template v-if="asks.has('frequency')">
        <span>Tone</span>
        <NumberField
          label="Tone in Hz"
          unit="Hz"
          :value="settings.frequency"
          :min="20"
          :max="20_000"
          @change="change({ frequency: $event })"
        />
      </template>
      <template v-if="asks.has('seconds')">
        <span>Length</span>
        <NumberField
          label="Length in seconds"
          unit="s"
          :value="settings.seconds"
          :min="0.01"
          :max="20"
          @change="change({ seconds: $event })"
        />
      </template>
      <ChoiceRow v-if="asks.has('smoothing')" v-model="smoothing" text="Smoothing" :options="widths" />
    </div>
    <h2 class="panel-title mt-3">Overlays</h2>
    <Switch
      v-for="s in lab.states.value"
      :key="s.key"
      class="switch w-full"
      :model-value="chosen.includes(s.key)"
      @update:model-value="toggle(s.key)"
    >
      <span class="switch-thumb" />
      <span class="ml-10.5 truncate">{{ s.name }}</span>
    </Switch>
    <h2 class="panel-title mt-3">Figures</h2>
    <slot />
    <h2 class="panel-title mt-3">Kept with the project</h2>
    <p v-if="kept.length === 0" class="text-small text-second">
      Keep a measurement to repeat it later and see what has changed.
    </p>
    <ul>
      <li v-for="m in kept" :key="m.id" class="flex items-center gap-1 py-0.5">
        <TextField
          class="min-w-0 flex-1 truncate bg-transparent text-small"
          :value="m.name"
          :aria-label="`Name of ${m.name}`"
          title="Type a new name"
          @change="
            doc.edit('Rename measurement', renameMeasurement(m.id, ($event.target as HTMLInputElement).value))
          "
          @keydown.stop
        />
        <button
          class="small-button px-1.5"
          :aria-pressed="lab.shown.compared.value?.id === m.id"
          :aria-label="`Repeat ${m.name}`"
          title="Measures again, and shows both"
          @click="lab.repeat(m)"
        >
          Repeat
        </button>
        <button
          class="small-button"
          :aria-label="`Remove ${m.name}`"
          title="Removes this measurement from the project"
          @click="doc.edit('Remove measurement', removeMeasurement(m.id))"
        >
          ×
        </button>
      </li>
    </ul>
  </aside>
</template>
