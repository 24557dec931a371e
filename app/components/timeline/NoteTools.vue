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

/** What can be done with the notes of a track: with those that are chosen, or with all of them. */
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
  props.chosen.size ? `${props.chosen.size} chosen` : `all ${props.line.notes.length}`,
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
  { text: '−', label: 'A degree lower', tip: 'A degree of the scale lower', run: () => shift(-1) },
  { text: '+', label: 'A degree higher', tip: 'A degree of the scale higher', run: () => shift(1) },
  { text: '−8ve', label: 'An octave lower', tip: 'An octave lower', run: () => transpose(-12) },
  { text: '+8ve', label: 'An octave higher', tip: 'An octave higher', run: () => transpose(12) },
]
const scaleTime = (factor: number): void => change('Scale notes', (l, some) => scaleNotes(l, some, factor))
const timeTools = [
  { text: 'legato', tip: 'Each reaches to the next', run: () => change('Join notes', joinNotes) },
  { text: 'repeat', tip: 'The same once more, right behind', run: repeat },
  { text: '× ½', tip: 'Twice as fast', run: () => scaleTime(0.5) },
  { text: '× 2', tip: 'Half as fast', run: () => scaleTime(2) },
  {
    text: 'even',
    tip: 'All at the same velocity',
    run: () => change('Even velocities', (l, some) => setVelocities(l, some, () => 0.8)),
  },
  { text: 'cut', tip: 'Takes them out, to be put elsewhere', run: cut },
  { text: 'copy', tip: 'To be put elsewhere, on this track or another', run: copy },
]

/** What the arpeggio plays of these notes, kept as notes. */
const hold = (): void => notes.keepArpeggio(props.track)
</script>

<template>
  <div class="note-tools" role="group" :aria-label="`Tools for the notes of ${track.name}`">
    <span class="text-second">{{ what }}</span>
    <button
      class="small-button"
      :aria-pressed="isRecording"
      title="Records notes that are played, beside those that are there; once more ends the take"
      @click="notes.record(track)"
    >
      {{ isRecording ? 'End take' : 'Record' }}
    </button>
    <button
      class="small-button"
      :aria-pressed="recording.countsIn"
      title="A bar of clicks before a take, where nothing plays yet"
      @click="recording.countsIn = !recording.countsIn"
    >
      count in
    </button>
    <button
      class="small-button"
      :aria-pressed="recording.quantisesTakes"
      title="Takes are brought to the grid"
      @click="recording.quantisesTakes = !recording.quantisesTakes"
    >
      to the grid
    </button>
    <span class="flex items-center gap-1">
      <button
        class="small-button"
        title="Brings beginnings to the grid"
        :disabled="isEmpty"
        @click="change('Quantise', (l, some) => quantiseNotes(l, some, grid, strength, swing))"
      >
        quantise</button
      ><ValueField class="w-11" :spec="strengthSpec" :value="strength" @take="strength = $event" /><label
        >swing <ValueField class="w-11" :spec="swingSpec" :value="swing" @take="swing = $event"
      /></label>
    </span>
    <span class="flex items-center gap-1">
      <ChoiceField
        label="scale"
        tip="Keys outside it are dimmed"
        :model-value="scale.root"
        :options="roots"
        @update:model-value="emit('scale', { ...scale, root: $event })"
      />
      <ChoiceField
        label="Kind of scale"
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
    <span class="flex items-center gap-1">
      <button
        v-for="t in timeTools"
        :key="t.text"
        class="small-button"
        :title="t.tip"
        :disabled="isEmpty"
        @click="t.run()"
      >
        {{ t.text }}
      </button>
      <button
        class="small-button"
        title="Puts what was copied at the playhead"
        :disabled="!screen.copiedNotes.length"
        @click="paste()"
      >
        paste
      </button>
    </span>
    <ChoiceField
      label="beneath"
      tip="What is drawn beneath the notes"
      :model-value="beneath"
      :options="views"
      @update:model-value="emit('beneath', $event)"
    />
    <label
      >length
      <ValueField
        class="w-16"
        title="The line repeats after so long"
        :spec="lengthSpec"
        :value="line.length || 16"
        @take="
          doc.edit(
            'Set the length of the line',
            editLine(track.id, (l) => ({ ...l, length: $event }), line.length),
          )
        "
    /></label>
    <button
      class="small-button"
      :aria-pressed="line.length === 0"
      title="Plays once, by the song’s place, instead of going round by itself"
      @click="
        doc.edit(
          'Change what the line follows',
          editLine(track.id, (l) => ({ ...l, length: l.length > 0 ? 0 : 16 }), line.length),
        )
      "
    >
      once
    </button>
    <label
      >offset
      <ValueField
        class="w-15"
        title="How much later the notes play; below 0 for earlier"
        :spec="offsetSpec"
        :value="track.noteOffset ?? 0"
        @take="doc.edit('Set the note offset', setNoteOffset(track.id, $event))"
    /></label>
    <Popover class="relative">
      <PopoverButton
        class="small-button"
        :class="track.arpeggio?.on ? 'bg-ink text-paper' : ''"
        title="Plays held notes one after the other"
      >
        arpeggio…
      </PopoverButton>
      <PopoverPanel class="absolute top-full left-0 z-50 w-92 border border-ink bg-sheet p-2">
        <ArpeggioPanel :track="track" @keep="hold" />
      </PopoverPanel>
    </Popover>
    <button class="small-button" title="Notes from a Standard MIDI File" @click="midiFiles.choose(track)">
      from a MIDI file…
    </button>
    <button
      class="small-button"
      title="These notes as a Standard MIDI File; Shift for those of all tracks"
      :disabled="isEmpty"
      @click="midiFiles.save($event.shiftKey ? null : track)"
    >
      to a MIDI file
    </button>
    <button
      class="small-button"
      title="Takes all notes of this track away"
      :disabled="!track.line"
      @click="doc.edit('Clear the notes', setNoteLine(track.id, null))"
    >
      clear
    </button>
    <span v-if="hasPads(track)" class="text-second">press steps to strike</span>
  </div>
</template>

<style scoped>
.note-tools {
  position: sticky;
  left: 0;
  z-index: 20;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
  width: calc(100vw - 12px);
  padding: 2px 8px;
  border-bottom: 1px dotted var(--line);
  background: var(--paper);
  font-size: 12px;
}
</style>
