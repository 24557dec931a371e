<script setup lang="ts">
import { removeControl } from '@oleaje/core/project/song-edits'
import { pathOf } from '@oleaje/core/project/param-path'
import { findTarget, ownerName, paramName } from '@oleaje/core/project/targets'
import { computed, onBeforeUnmount, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'
import { type HeardControl, controlName } from '../../services/device-router'
import { type DeviceMessage, readMidi, writeMidi } from '../../devices/midi-message'

/**
 * The simulated controller: eight faders, a wheel, pressure and two octaves of keys. What is done here goes
 * as MIDI bytes through the same way as a real device.
 */
const session = useSession()
const { doc, router, screen, preferences } = session
const faders = ref(Array.from({ length: 8 }, () => 0))
const wheel = ref(0.5)
const press = ref(0)
const held = ref<number[]>([])
const heard = ref('')
const inputs = ref<string[]>([])
const FIRST_CONTROL = 20
const keys = Array.from({ length: 25 }, (_, i) => 48 + i)
const black = (note: number): boolean => [1, 3, 6, 8, 10].includes(note % 12)

router.onHeard = (m: HeardControl) => {
  const { kind, channel, number } = m
  const name = controlName({ kind, channel, number, key: m.kind === 'key' ? m.key : undefined })
  heard.value = `${name}: ${Math.round(m.value * 100)} %`
}
onBeforeUnmount(() => {
  router.onHeard = () => {}
})

/** Through the bytes and back, as a device's message comes. */
function send(m: DeviceMessage): void {
  const got = readMidi(writeMidi(m))
  if (got) router.take(got)
}

function fader(i: number, value: number): void {
  faders.value[i] = value
  send({ kind: 'cc', channel: 0, number: FIRST_CONTROL + i, value })
}

function bend(value: number): void {
  wheel.value = value
  send({ kind: 'bend', channel: 0, number: 0, value })
}

function down(note: number): void {
  if (held.value.includes(note)) return
  held.value = [...held.value, note]
  send({ kind: 'note', channel: 0, number: note, value: 0.8 })
}

function up(note: number): void {
  if (!held.value.includes(note)) return
  held.value = held.value.filter((n) => n !== note)
  send({ kind: 'note', channel: 0, number: note, value: 0 })
}

async function real(): Promise<void> {
  try {
    inputs.value = await session.midiInputs.open()
    heard.value = inputs.value.length ? `listening to ${inputs.value.join(', ')}` : 'no MIDI input connected'
  } catch (error) {
    heard.value = sentence(error)
  }
}

const learnt = computed(() =>
  (doc.project?.controls ?? []).map((c) => {
    const found = doc.project && findTarget(doc.project, c.target)
    return {
      id: c.id,
      control: controlName(c.message),
      target: found
        ? `${ownerName(found.owner)}, ${paramName(found.owner, pathOf(c.target)).toLowerCase()}`
        : 'something that is not heard now',
    }
  }),
)
const number = (e: Event): number => Number((e.target as HTMLInputElement).value)
</script>

<template>
  <section
    class="flex h-30 shrink-0 items-stretch gap-4 border-t border-ink bg-sheet px-4 py-2"
    aria-label="Simulated controller"
  >
    <div class="flex w-37.5 flex-col gap-1 text-small">
      <h2 class="panel-title">Controller</h2>
      <p class="flex-1 overflow-hidden text-second" role="status">
        {{ heard || 'Simulated: move a fader or play a key' }}
      </p>
      <div class="flex gap-1">
        <button class="small-button" title="Also receives from MIDI devices" @click="real">
          Use MIDI devices</button
        ><button
          class="small-button"
          :aria-pressed="preferences.followsClock"
          title="Follows tempo, start and stop of a MIDI clock"
          @click="preferences.followsClock = !preferences.followsClock"
        >
          MIDI clock</button
        ><button class="small-button" title="U" @click="screen.deviceShown = false">Close</button>
      </div>
    </div>
    <div class="flex gap-2">
      <label v-for="(v, i) in faders" :key="i" class="flex flex-col items-center text-tiny">
        <input
          class="fader"
          type="range"
          min="0"
          max="1"
          step="0.0078740157"
          :value="v"
          :aria-label="`Fader ${i + 1}`"
          @input="fader(i, number($event))"
          @keydown.stop
        />{{ FIRST_CONTROL + i }}
      </label>
      <label class="flex flex-col items-center text-tiny"
        ><input
          class="fader"
          type="range"
          min="0"
          max="1"
          step="0.001"
          :value="wheel"
          aria-label="Bend wheel"
          @input="bend(number($event))"
          @change="bend(0.5)"
          @keydown.stop
        />bend</label
      >
      <label class="flex flex-col items-center text-tiny"
        ><input
          class="fader"
          type="range"
          min="0"
          max="1"
          step="0.0078740157"
          :value="press"
          aria-label="Pressure"
          @input="
            ($event) => {
              press = number($event)
              send({ kind: 'pressure', channel: 0, number: 0, value: press })
            }
          "
          @keydown.stop
        />press</label
      >
    </div>
    <div class="flex items-stretch" role="group" aria-label="Keyboard, C3 to C5">
      <button
        v-for="n in keys"
        :key="n"
        class="w-4.75 touch-none border border-ink"
        :class="[
          black(n) ? 'mb-8.5 bg-ink' : 'bg-paper',
          held.includes(n) ? 'outline-2 outline-magenta' : '',
        ]"
        :aria-label="`Note ${n}`"
        :aria-pressed="held.includes(n)"
        @pointerdown="down(n)"
        @pointerup="up(n)"
        @pointerleave="up(n)"
        @keydown.enter.prevent="down(n)"
        @keyup.enter="up(n)"
      />
    </div>
    <ul class="min-w-0 flex-1 overflow-y-auto text-small" aria-label="Assigned controls">
      <li v-if="!learnt.length" class="text-second">
        No controls assigned. Focus a gauge, press I, then move a control.
      </li>
      <li v-for="l in learnt" :key="l.id" class="flex items-center gap-2 border-b border-dotted border-line">
        <span class="min-w-0 flex-1 truncate">{{ l.control }} → {{ l.target }}</span
        ><button
          class="small-button"
          :aria-label="`Unassign ${l.control}`"
          @click="doc.edit('Unassign controller', removeControl(l.id))"
        >
          ×
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.fader {
  appearance: none;
  writing-mode: vertical-lr;
  direction: rtl;
  width: 22px;
  height: 80px;
  background: linear-gradient(var(--water), var(--water)) center / 6px 100% no-repeat;
}
.fader::-webkit-slider-thumb {
  appearance: none;
  width: 8px;
  height: 22px;
  background: var(--ink);
}
.fader::-moz-range-thumb {
  width: 8px;
  height: 22px;
  border: 0;
  border-radius: 0;
  background: var(--ink);
}
</style>
