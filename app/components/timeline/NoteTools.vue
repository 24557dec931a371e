<script setup lang="ts">
import {
  addNotes,
  editLine,
  joinNotes,
  moveNotes,
  quantiseNotes,
  removeNotes,
  repeatNotes,
  scaleNotes,
  setNoteLine,
  setNoteOffset,
  setVelocities,
  shiftInScale,
} from '@oleaje/core/project/note-edits'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { beats as beatsSpec, percent, seconds } from '@oleaje/core/units/parameter'
import { noteNames, scales } from '@oleaje/core/units/tuning'
import { Popover, PopoverButton, PopoverPanel } from '../ui/parts/popover'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { hasPads } from './note-grid'

/** Tools for the notes of a track: the selected ones, or all. */
const props = defineProps<{
  track: Track
  line: NoteLine
  chosen: ReadonlySet<number>
  grid: number
  scale: { root: number; scale: number }
  beneath: 'velocity' | 'bend' | 'pressure'
}>()
const emit = defineEmits<{
  choose: [chosen: ReadonlySet<number>]
  scale: [scale: { root: number; scale: number }]
  beneath: [what: 'velocity' | 'bend' | 'pressure']
}>()
const { doc, notes, midiFiles, screen, recording } = useSession()
const strength = ref(1)
const swing = ref(0)
const strengthSpec = percent('Strength', { default: 1 })
const swingSpec = percent('Swing', { max: 0.75, default: 0 })
const lengthSpec = { ...beatsSpec('Length of the line', { min: 0.25, max: 4096, default: 16 }) }
const offsetSpec = {
  ...seconds('Note offset', { min: -0.05, max: 0.05, default: 0 }),
  law: 'linear' as const,
}
const of = computed<ReadonlySet<number>>(() =>
  props.chosen.size ? props.chosen : new Set(props.line.notes.keys()),
)
const what = computed(() =>
  props.chosen.size ? `${props.chosen.size} selected` : `${props.line.notes.length} notes`,
)
const isEmpty = computed(() => props.line.notes.length === 0)
const isRecording = computed(() => recording.recordingNotes === props.track.id)
const roots = noteNames.map((text, value) => ({ value, text }))
const kinds = scales.map((s, value) => ({ value, text: s.name }))
const views = (['velocity', 'bend', 'pressure'] as const).map((value) => ({ value, text: value }))

function change(label: string, how: (line: NoteLine, of: ReadonlySet<number>) => NoteLine): void {
  doc.edit(
    label,
    editLine(props.track.id, (l) => how(l, of.value), props.line.length),
  )
}

function repeat(): void {
  const after = repeatNotes(props.line, of.value, props.grid)
  change('Repeat notes', () => after.line)
  emit('choose', after.chosen)
}

function cut(): void {
  copy()
  change('Cut notes', (l, some) => removeNotes(l, some))
  emit('choose', new Set())
}
function copy(): void {
  screen.copiedNotes = props.line.notes.flatMap((n, i) => (of.value.has(i) ? [{ ...n }] : []))
}
/** Puts what was copied at a beat, or at the playhead; on the grid. */
function paste(beat = notes.beatIn(props.line)): void {
  const { copiedNotes } = screen
  if (!copiedNotes.length) return
  const first = Math.min(...copiedNotes.map((n) => n.start))
  const at = Math.round(beat / props.grid) * props.grid
  const start = props.line.notes.length
  change('Paste notes', (l) =>
    addNotes(
      l,
      copiedNotes.map((n) => ({ ...n, start: n.start - first + at })),
    ),
  )
  emit('choose', new Set(copiedNotes.map((_, i) => start + i)))
}

/** For the keys of the lane, which act on what is chosen in it. */
defineExpose({ copy, cut, paste, repeat })

function shift(degrees: number): void {
  change('Shift in the scale', (l, some) =>
    shiftInScale(l, some, degrees, props.scale.root, props.scale.scale),
  )
}
const transpose = (semitones: number): void =>
  change('Transpose notes', (l, some) => moveNotes(l, some, 0, semitones))
const pitchTools = [
  { text: '−', label: 'Degree down', tip: 'Moves down one degree of the scale', run: () => shift(-1) },
  { text: '+', label: 'Degree up', tip: 'Moves up one degree of the scale', run: () => shift(1) },
  { text: '−8ve', label: 'Octave down', tip: 'Moves down an octave', run: () => transpose(-12) },
  { text: '+8ve', label: 'Octave up', tip: 'Moves up an octave', run: () => transpose(12) },
]
const scaleTime = (factor: number): void => change('Scale notes', (l, some) => scaleNotes(l, some, factor))
/** Edits of the selected notes, or of all. */
const noteActions = computed(() => [
  [
    { text: 'Legato', tip: 'Extends each note to the next', run: () => change('Join notes', joinNotes) },
    { text: 'Half length', tip: 'Plays the notes twice as fast', run: () => scaleTime(0.5) },
    { text: 'Double length', tip: 'Plays the notes half as fast', run: () => scaleTime(2) },
    {
      text: 'Even velocity',
      tip: 'Sets all velocities equal',
      run: () => change('Even velocities', (l, some) => setVelocities(l, some, () => 0.8)),
    },
  ],
  [
    { text: 'Cut', tip: 'Cuts the notes', keys: 'Ctrl+X', run: cut },
    { text: 'Copy', tip: 'Copies the notes', keys: 'Ctrl+C', run: copy },
    {
      text: 'Paste',
      tip: 'Pastes at the playhead',
      keys: 'Ctrl+V',
      disabled: !screen.copiedNotes.length,
      run: () => paste(),
    },
    { text: 'Repeat', tip: 'Repeats the notes once', keys: 'Ctrl+D', run: repeat },
  ],
  [
    {
      text: 'Clear',
      tip: 'Removes all notes of this track',
      disabled: !props.track.line,
      run: () => doc.edit('Clear notes', setNoteLine(props.track.id, null)),
    },
  ],
])
const fileActions = computed(() => [
  [
    {
      text: 'Import MIDI…',
      tip: 'Imports a Standard MIDI File',
      run: () => void midiFiles.choose(props.track),
    },
    {
      text: 'Export MIDI',
      tip: 'Exports these notes as a Standard MIDI File',
      disabled: isEmpty.value,
      run: () => void midiFiles.save(props.track),
    },
    {
      text: 'Export MIDI of all tracks',
      tip: 'Exports the notes of all tracks as a Standard MIDI File',
      run: () => void midiFiles.save(null),
    },
  ],
])
/** How takes are recorded. */
const takeActions = computed(() => [
  [
    {
      text: 'Count-in',
      tip: 'Counts in one bar before a take',
      on: recording.countsIn,
      run: () => {
        recording.countsIn = !recording.countsIn
      },
    },
    {
      text: 'Snap takes',
      tip: 'Quantises takes while recording',
      on: recording.quantisesTakes,
      run: () => {
        recording.quantisesTakes = !recording.quantisesTakes
      },
    },
  ],
])

/** Replaces the notes by those that the arpeggio plays. */
const hold = (): Promise<void> => notes.keepArpeggio(props.track)
</script>

<template>
  <div class="note-tools" role="group" :aria-label="`Tools for the notes of ${track.name}`">
    <span class="text-second">{{ what }}</span>
    <button
      class="small-button"
      :aria-pressed="isRecording"
      title="Records played notes and adds them to the existing ones"
      @click="notes.record(track)"
    >
      {{ isRecording ? 'Stop take' : 'Record' }}
    </button>
    <ActionMenu small label="Recording options" tip="Count-in, and snapping of takes" :groups="takeActions" />
    <span class="flex items-center gap-1">
      <button
        class="small-button"
        title="Quantises the note starts"
        :disabled="isEmpty"
        @click="change('Quantise', (l, some) => quantiseNotes(l, some, grid, strength, swing))"
      >
        Quantise</button
      ><ValueField class="w-11" :spec="strengthSpec" :value="strength" @take="strength = $event" /><label
        >swing <ValueField class="w-11" :spec="swingSpec" :value="swing" @take="swing = $event"
      /></label>
    </span>
    <span class="flex items-center gap-1">
      <ChoiceField
        label="Scale"
        tip="Dims the keys outside this scale"
        :model-value="scale.root"
        :options="roots"
        @update:model-value="emit('scale', { ...scale, root: $event })"
      />
      <ChoiceField
        label="Scale type"
        hide-label
        :model-value="scale.scale"
        :options="kinds"
        @update:model-value="emit('scale', { ...scale, scale: $event })"
      />
      <button
        v-for="t in pitchTools"
        :key="t.text"
        class="small-button"
        :aria-label="t.label"
        :title="t.tip"
        :disabled="isEmpty"
        @click="t.run()"
      >
        {{ t.text }}
      </button>
    </span>
    <ActionMenu
      small
      label="Edit notes"
      tip="Length, velocity, cut, copy, paste, repeat, clear"
      :groups="noteActions"
      >Edit…</ActionMenu
    >
    <Popover class="relative">
      <PopoverButton class="small-button" title="Length, timing, offset, and the lane below the notes">
        Lane…
      </PopoverButton>
      <PopoverPanel
        class="absolute top-full left-0 z-50 flex w-64 flex-col items-start gap-2 border border-ink bg-sheet p-2"
      >
        <ChoiceField
          label="Lane below:"
          tip="Chooses the lane below the notes"
          :model-value="beneath"
          :options="views"
          @update:model-value="emit('beneath', $event)"
        />
        <label
          >length
          <ValueField
            class="w-16"
            title="Length after which the notes repeat"
            :spec="lengthSpec"
            :value="line.length || 16"
            @take="
              doc.edit(
                'Set note line length',
                editLine(track.id, (l) => ({ ...l, length: $event }), line.length),
              )
            "
        /></label>
        <button
          class="small-button"
          :aria-pressed="line.length === 0"
          title="Plays the notes once along the song instead of repeating"
          @click="
            doc.edit(
              'Change note line timing',
              editLine(track.id, (l) => ({ ...l, length: l.length > 0 ? 0 : 16 }), line.length),
            )
          "
        >
          Play once
        </button>
        <label
          >offset
          <ValueField
            class="w-15"
            title="Delay of the notes; negative values play earlier"
            :spec="offsetSpec"
            :value="track.noteOffset ?? 0"
            @take="doc.edit('Set note offset', setNoteOffset(track.id, $event))"
        /></label>
      </PopoverPanel>
    </Popover>
    <Popover class="relative">
      <PopoverButton
        class="small-button"
        :class="track.arpeggio?.on ? 'bg-ink text-paper' : ''"
        title="Plays held notes one after another"
      >
        Arpeggio…
      </PopoverButton>
      <PopoverPanel class="absolute top-full left-0 z-50 w-92 border border-ink bg-sheet p-2">
        <ArpeggioPanel :track="track" @keep="hold" />
      </PopoverPanel>
    </Popover>
    <ActionMenu small label="MIDI files" tip="Import and export of MIDI files" :groups="fileActions"
      >MIDI…</ActionMenu
    >
    <span v-if="hasPads(track)" class="text-second">Click steps to set hits</span>
  </div>
</template>

<style scoped>
.note-tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
  font-size: 12px;
}
</style>
