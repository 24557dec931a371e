<script setup lang="ts">
import { materials } from '@oleaje/core/render/phrase'
import { Star } from '@lucide/vue'
import { unknownEffects } from '@oleaje/core/project/preset'
import { effectDefinition } from '@oleaje/core/effects/index'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { type ShelfEntry, effectsIn } from '../../services/shelf-entries'
import type { TakingWay } from '../../services/shelf'

/** What is known of the highlighted preset, and what can be done with it. */
const { entry, heard } = defineProps<{ entry: ShelfEntry; heard: boolean }>()
const emit = defineEmits<{ take: [way: TakingWay]; preview: [] }>()
const { audition, entries, packs, shelf } = useSession()
const preset = computed(() => entry.preset)
const macros = computed(() => preset.value.modulators.filter((m) => m.type === 'macro'))
const effects = computed(() =>
  effectsIn(preset.value)
    .map((type) => effectDefinition(type)?.name ?? type)
    .join(', '),
)
const strange = computed(() => unknownEffects(preset.value))
const isFavourite = computed(() => entries.favourites.value.includes(entry.id))
const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' })
const signed = (x: number): string => `${x < 0 ? '−' : '+'}${Math.abs(x).toFixed(1)}`
const words = (text: string): string[] =>
  text
    .split(',')
    .map((t) => t.trim().slice(0, 40))
    .filter(Boolean)
    .slice(0, 20)

const ways = computed<readonly { way: TakingWay; text: string; tip: string }[]>(() =>
  preset.value.kind === 'chain'
    ? [
        { way: 'chain', text: 'Replace chain', tip: 'Replaces the chain of the selected track (Enter)' },
        { way: 'after', text: 'Insert', tip: 'Inserts it after the selection (Ctrl+Enter)' },
        { way: 'around', text: 'Split beside', tip: 'Splits and puts it beside the selection (Shift+Enter)' },
        { way: 'new track', text: 'On new track', tip: 'Adds a track with the same sound (Alt+Enter)' },
      ]
    : [{ way: 'after', text: 'Insert', tip: 'Inserts it into the selected track (Enter)' }],
)
function change(key: 'name' | 'about', e: Event): void {
  if (entry.kept) void shelf.change(entry.kept, { [key]: (e.target as HTMLInputElement).value })
}
function changeWords(key: 'tags' | 'materials', e: Event): void {
  if (entry.kept) void shelf.change(entry.kept, { [key]: words((e.target as HTMLInputElement).value) })
}
</script>

<template>
  <aside aria-label="Details of the preset">
    <div class="flex items-start gap-2">
      <TextField
        v-if="entry.kept"
        class="field min-w-0 flex-1 text-heading font-semibold"
        :value="preset.name"
        aria-label="Name of the preset"
        title="Type a new name"
        @change="change('name', $event)"
      />
      <h2 v-else class="min-w-0 flex-1 text-heading font-semibold">{{ preset.name }}</h2>
      <button
        class="small-button"
        :aria-pressed="isFavourite"
        :aria-label="isFavourite ? 'Remove from favourites' : 'Add to favourites'"
        title="Adds it to the favourites, or removes it"
        @click="entries.toggleFavourite(entry.id)"
      >
        <Star :size="14" :fill="isFavourite ? 'currentColor' : 'none'" aria-hidden="true" />
      </button>
    </div>
    <TextField
      v-if="entry.kept"
      class="field mt-1 w-full"
      :value="preset.about"
      placeholder="One line of description"
      aria-label="Description"
      @change="change('about', $event)"
    />
    <p v-else class="text-second">{{ preset.about }}</p>
    <div class="mt-2 flex flex-wrap gap-1">
      <button v-for="w in ways" :key="w.way" class="plain-button" :title="w.tip" @click="emit('take', w.way)">
        {{ w.text }}
      </button>
      <button
        class="plain-button"
        :aria-pressed="heard"
        title="Previews it on the selected track, or ends the preview"
        @click="emit('preview')"
      >
        {{ heard ? 'End preview' : 'Preview' }}
      </button>
    </div>
    <p class="mt-1 h-4 text-tiny text-second" role="status">
      {{ heard ? `Previewed at ${signed(audition.level.value)} dB, as loud as the dry sound` : '' }}
    </p>
    <ChainPicture v-if="preset.kind !== 'modulators'" class="mt-2" :entry="entry" />
    <dl class="mt-2 grid grid-cols-[82px_1fr] gap-x-2 gap-y-1 text-small">
      <template v-if="macros.length">
        <dt class="text-second">Macros</dt>
        <dd>{{ macros.map((m) => m.name).join(', ') }}</dd>
      </template>
      <template v-if="effects">
        <dt class="text-second">Effects</dt>
        <dd>{{ effects }}</dd>
      </template>
      <dt class="text-second">Contains</dt>
      <dd>{{ preset.modulators.length }} modulators, {{ preset.links.length }} links</dd>
      <dt class="text-second">Tags</dt>
      <dd>
        <TextField
          v-if="entry.kept"
          class="field w-full"
          :value="preset.tags.join(', ')"
          aria-label="Tags"
          title="Words to search for, separated by commas"
          @change="changeWords('tags', $event)"
        /><template v-else>{{ preset.tags.join(', ') }}</template>
      </dd>
      <dt class="text-second">Suits</dt>
      <dd>
        <TextField
          v-if="entry.kept"
          class="field w-full"
          :value="preset.materials.join(', ')"
          :placeholder="materials.join(', ')"
          aria-label="Suits"
          title="Material that it suits, separated by commas"
          @change="changeWords('materials', $event)"
        /><template v-else>{{ preset.materials.join(', ') }}</template>
      </dd>
      <template v-if="entry.shipped">
        <dt class="text-second">Measured</dt>
        <dd>
          {{ entry.shipped.measured.point }}. {{ signed(entry.shipped.measured.louder) }} LU, true peak
          {{ entry.shipped.measured.truePeak.toFixed(1).replace('-', '−') }} dBTP.
        </dd>
      </template>
      <template v-if="entry.kept">
        <dt class="text-second">Kept</dt>
        <dd>{{ date.format(entry.kept.saved) }}{{ preset.origin ? `, from ${preset.origin}` : '' }}</dd>
      </template>
    </dl>
    <p v-if="strange.length" class="mt-2 text-small text-magenta">
      This version does not know {{ strange.join(', ') }}. It is kept and passes sound unchanged.
    </p>
    <div class="mt-3 flex flex-wrap gap-1">
      <button class="small-button" title="Saves the preset to a file" @click="packs.saveOne(preset)">
        Export…
      </button>
      <template v-if="entry.kept">
        <button
          class="small-button"
          title="Keeps the present chain of the selected track under this name"
          @click="entry.kept && shelf.update(entry.kept)"
        >
          Update from track
        </button>
        <button
          class="small-button"
          :aria-label="`Remove ${preset.name}`"
          title="Removes it from the shelf. It can be restored."
          @click="entry.kept && shelf.remove(entry.kept)"
        >
          Remove
        </button>
      </template>
    </div>
  </aside>
</template>
