<script setup lang="ts">
import { fileOpen } from 'browser-fs-access'
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useSession } from '../../composables/useSession'
import { type TryOutKind, tryOutKinds } from '../../services/try-out-variants'
import { type Card, MOST_CARDS } from '../../services/try-outs'

/**
 * A sheet of variants of the selected track. The focused card is heard in time with the song; nothing is
 * written until one is applied.
 */
const session = useSession()
const { audition, doc, screen, selection, tryOuts } = session
const kind = ref<TryOutKind>('dice')
const count = ref(12)
const counts = [6, 12, MOST_CARDS].map((n) => ({ value: n, text: `${n} cards` }))
/** Cards that are chosen as parents, at most two. */
const parents = shallowRef<readonly string[]>([])
const sheet = ref<HTMLElement | null>(null)
const tracks = computed(() =>
  (doc.project?.tracks ?? []).filter((t) => t.kind !== 'mix').map((t) => ({ value: t.id, text: t.name })),
)
const done = computed(() => tryOuts.cards.value.filter((c) => c.isWhole || c.failed).length)
const status = computed(() => {
  if (tryOuts.said.value) return tryOuts.said.value
  const all = tryOuts.cards.value.length
  if (all < 2) return ''
  return tryOuts.running.value ? `${done.value} of ${all} computed` : `${all} cards`
})
// the project may still be on its way
watch(
  () => [doc.project?.id, selection.track?.id] as const,
  () => {
    void tryOuts.begin()
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  audition.end()
  if (tryOuts.running.value) tryOuts.cancel()
})

async function run(): Promise<void> {
  parents.value = []
  audition.end()
  const work = tryOuts.run(kind.value, count.value)
  await nextTick()
  await work
}
/** Takes sounds to be tried, and makes a sheet of them. */
async function addSounds(files: readonly File[]): Promise<void> {
  if (!files.length) return
  kind.value = 'sources'
  const refused = await session.variants.take(files)
  if (refused) tryOuts.said.value = refused
  else await run()
}
const chooseSounds = async (): Promise<void> =>
  addSounds(
    await fileOpen({
      mimeTypes: ['audio/*'],
      extensions: ['.wav', '.aif', '.aiff', '.flac', '.mp3', '.ogg'],
      description: 'Sounds',
      multiple: true,
    }).catch(() => []),
  )
/** Sounds that are dropped here are tried; files of other kinds are for the page. */
function dropped(e: DragEvent): void {
  const files = [...(e.dataTransfer?.files ?? [])]
  if (files.some((f) => /\.(zip|json|midi?)$/i.test(f.name))) return
  e.preventDefault()
  void addSounds(files)
}
const cardAt = (i: number): HTMLElement | undefined =>
  sheet.value?.querySelectorAll<HTMLElement>('[data-card]')[i]

/** Arrow keys walk over the sheet; the cards of a row are counted by where they stand. */
function walk(e: KeyboardEvent, i: number): void {
  const cards = [...(sheet.value?.querySelectorAll<HTMLElement>('[data-card]') ?? [])]
  const top = cards[0]?.offsetTop
  const columns = Math.max(1, cards.filter((c) => c.offsetTop === top).length)
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: columns, ArrowUp: -columns }[e.key]
  if (by === undefined) return
  e.preventDefault()
  e.stopPropagation()
  cardAt(i + by)?.focus()
}
function keydown(e: KeyboardEvent, card: Card, i: number): void {
  if (e.target !== e.currentTarget) return
  if (e.key === 'Enter') void apply(card)
  else if (e.key === 'Escape' && audition.heard.value) audition.end()
  else if (e.key === 'Delete') discard(card, i)
  else return walk(e, i)
  e.preventDefault()
  e.stopPropagation()
}
function discard(card: Card, i: number): void {
  parents.value = parents.value.filter((id) => id !== card.id)
  tryOuts.discard(card)
  void nextTick(() => cardAt(Math.min(i, tryOuts.cards.value.length - 1))?.focus())
}
async function apply(card: Card): Promise<void> {
  if (tryOuts.apply(card)) await session.views.go('/')
}
function toggleParent(id: string): void {
  parents.value = parents.value.includes(id)
    ? parents.value.filter((x) => x !== id)
    : [...parents.value, id].slice(-2)
}
async function breed(): Promise<void> {
  const [a, b] = parents.value.map((id) => tryOuts.cards.value.find((c) => c.id === id))
  if (a && b) await tryOuts.breed(a, b)
}
</script>

<template>
  <section class="flex flex-col" aria-label="Try-outs" @drop="dropped">
    <div class="flex items-center gap-2 border-b border-line px-3 py-2">
      <ChoiceField
        label="Track"
        :model-value="selection.track?.id ?? ''"
        :options="tracks"
        tip="The track whose chain is tried out"
        @update:model-value="selection.selectTrack($event)"
      />
      <ChoiceField v-model="kind" label="Try" :options="tryOutKinds" tip="Subject of the variation" />
      <ChoiceField v-model="count" label="Number of cards" hide-label :options="counts" />
      <button
        v-if="kind === 'sources'"
        class="plain-button"
        title="Sounds that are tried before others; files can also be dropped on the sheet"
        @click="chooseSounds"
      >
        Add sounds…
      </button>
      <button class="plain-button" title="Makes a new sheet of cards" @click="run">Run</button>
      <button
        class="plain-button"
        :disabled="!tryOuts.running.value"
        title="Stops computing; finished cards stay"
        @click="tryOuts.cancel()"
      >
        Cancel
      </button>
      <button
        class="plain-button"
        :disabled="parents.length < 2 || tryOuts.cards.value.length >= MOST_CARDS"
        title="Adds a card with the structure of the first parent and each parameter from one of both"
        @click="breed"
      >
        Breed two
      </button>
      <button
        class="plain-button"
        :aria-pressed="screen.match"
        title="Steers the chain towards a reference sound"
        @click="screen.match = !screen.match"
      >
        Match…
      </button>
      <span class="min-w-0 flex-1 truncate text-right text-second" role="status">{{ status }}</span>
    </div>
    <MatchPanel v-if="screen.match" />
    <p v-if="tryOuts.cards.value.length < 2" class="p-4 text-second">
      Choose what to vary and click Run. Cards play in time with the song when they have the focus, as loud as
      the first. Enter applies one, Delete discards it, Esc ends the preview.
    </p>
    <div ref="sheet" class="try-out-sheet min-h-0 flex-1 overflow-y-auto p-3">
      <TryOutCard
        v-for="(c, i) in tryOuts.cards.value"
        :key="c.id"
        :card="c"
        :first="tryOuts.cards.value[0] === c"
        :heard="audition.heard.value === c.id"
        :parent="parents.includes(c.id)"
        @focus="tryOuts.play(c)"
        @keydown="keydown($event, c, i)"
        @parent="toggleParent(c.id)"
        @apply="apply(c)"
        @keep="tryOuts.keep(c)"
        @discard="discard(c, i)"
      />
    </div>
  </section>
</template>
