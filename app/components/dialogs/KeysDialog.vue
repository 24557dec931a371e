<script setup lang="ts">
import { computed, ref } from 'vue'
import { actions } from '../../commands/actions'
import { rankFound } from '../../composables/find-rank'
import { useSession } from '../../composables/useSession'

/** All keys, to be searched; in columns that fit any height. */
const session = useSession()
const query = ref('')
/** Keys of what has the focus. */
const places: Record<string, readonly (readonly [name: string, keys: string])[]> = {
  'On a gauge': [
    ['set, set finely', 'drag, Shift+drag'],
    ['step', 'arrow keys, wheel over the focused one or with Alt'],
    ['stride', 'Page Up, Page Down'],
    ['to the ends', 'Home, End'],
    ['type a value: 1.2k, -6dB, 1/8., C#4, +=2dB, x2', 'Enter, double-click'],
    ['back to the default', 'Backspace'],
    ['link a modulator', 'M'],
    ['mark, to link several at once', 'Shift+click'],
    ['take a drag back', 'Esc while dragging'],
  ],
  'On a mark of a wave': [
    ['step, to the next hit', 'left and right, with Shift'],
    ['zoom in, out, show all', '+, −, 0, Ctrl+wheel'],
    ['scroll when zoomed in', 'wheel, middle-button drag'],
    ['turn snap off', 'Alt+drag'],
  ],
  'In the notes': [
    ['move the selection or the cursor', 'arrow keys, finely with Alt'],
    ['length and velocity', 'Shift+arrow keys'],
    ['set a note or a step at the place', 'Enter'],
    ['select next, previous, all, none', '. , Ctrl+A Esc'],
    ['choose several', 'Shift+drag'],
    ['copy, cut, paste, repeat', 'Ctrl+C, X, V, D'],
    ['remove', 'Delete, double-click'],
  ],
  'In the Timeline': [
    ['zoom', '+, −, Ctrl+wheel, Ctrl+drag up and down'],
    ['scroll, to start and end', 'left and right, Home, End, middle-button drag'],
    ['choose a stretch over lanes', 'Shift+arrow keys, Shift+drag'],
    ['copy, cut, paste, repeat, clear the range', 'Ctrl+C, X, V, D, Delete'],
    ['rename a section', 'F2'],
  ],
}
const everywhere = computed(() => actions(session).filter((a) => a.keys))
const all = computed(() => [
  ...everywhere.value.map((a) => ({ name: a.name, keys: a.keys, words: [a.keys], tip: '' })),
  ...Object.entries(places).flatMap(([place, its]) =>
    its.map(([name, keys]) => ({ name: `${place}: ${name}`, keys, words: [keys, place], tip: '' })),
  ),
])
/** All by the place where they are heard, or what was searched for. */
const groups = computed(() =>
  query.value.trim()
    ? [{ place: '', lines: rankFound(query.value, all.value) }]
    : [
        { place: 'Everywhere else', lines: everywhere.value },
        ...Object.entries(places).map(([place, its]) => ({
          place,
          lines: its.map(([name, keys]) => ({ name, keys })),
        })),
      ],
)
</script>

<template>
  <BaseDialog title="Keys" wide @close="session.screen.dialog = ''">
    <input
      v-model="query"
      class="field mb-2 w-full"
      type="search"
      placeholder="Search actions or keys"
      aria-label="Search keys"
    />
    <div class="max-h-[60vh] overflow-y-auto pr-2 text-small" tabindex="0" role="group" aria-label="Keys">
      <section v-for="g in groups" :key="g.place">
        <h3 v-if="g.place" class="water-name pt-2 text-name">{{ g.place }}</h3>
        <dl :class="g.place ? 'columns-2 gap-6' : ''">
          <div
            v-for="a in g.lines"
            :key="a.name"
            class="flex break-inside-avoid justify-between gap-2 border-b border-dotted border-line py-0.5"
          >
            <dt>{{ a.name }}</dt>
            <dd class="text-right font-semibold">{{ a.keys }}</dd>
          </div>
        </dl>
      </section>
    </div>
    <p v-if="!groups[0]?.lines.length" class="text-second">No results.</p>
    <button class="small-button mt-3" @click="session.screen.dialog = 'licences'">Licences</button>
  </BaseDialog>
</template>
