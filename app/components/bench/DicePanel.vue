<script setup lang="ts">
import { type DiceScope, diceKinds } from '@oleaje/core/variation/dice'
import { ownerName } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { percent } from '@oleaje/core/units/parameter'
import { ChevronLeft, ChevronRight, Dices } from '@lucide/vue'
import { computed, nextTick, onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * Throws dice on an effect, a branch, a modulator, a chain or the project. The sound stays as loud as before;
 * what is locked stays as it is.
 */
const { dice, doc, screen, selection } = useSession()
const amount = percent('Amount', { default: 0.3, min: 0.02, tip: '' })
const root = ref<HTMLElement | null>(null)
onMounted(() => void nextTick(() => root.value?.querySelector<HTMLElement>('[data-throw]')?.focus()))

/** What can be thrown, from the selected thing to the whole project. */
const scopes = computed<readonly { value: string; text: string; scope: DiceScope }[]>(() => {
  const { project } = doc
  if (!project) return []
  const named = (kind: 'node' | 'branch' | 'modulator', id: string | null, text: string) => {
    const owner = id ? findOwner(project, id) : undefined
    return id && owner?.kind === kind
      ? [{ value: `${kind} ${id}`, text: `${text}: ${ownerName(owner)}`, scope: { kind, id } }]
      : []
  }
  const { track, selectedId, traced } = selection
  return [
    ...named('node', selectedId, 'Effect'),
    ...named('branch', selectedId, 'Branch'),
    ...(track
      ? [
          {
            value: `chain ${track.id}`,
            text: `Chain: ${track.name}`,
            scope: { kind: 'chain', id: track.id } as const,
          },
        ]
      : []),
    ...named('modulator', traced, 'Modulator'),
    { value: 'project', text: 'Whole project', scope: { kind: 'project', id: 'project' } },
  ]
})
/** The kind that was chosen last: it stays as the selection changes. */
const kind = ref<DiceScope['kind']>('chain')
const chosen = computed(() => scopes.value.find((s) => s.scope.kind === kind.value) ?? scopes.value[0])
function choose(value: string): void {
  kind.value = scopes.value.find((s) => s.value === value)?.scope.kind ?? 'chain'
}

const texts = {
  levels: ['Levels', 'Levels and wet amounts'],
  times: ['Times', 'Times, note lengths and rates'],
  tone: ['Tone', 'Frequencies, shapes and all other values of effects'],
  modulators: ['Modulators', 'Values of modulators and macros'],
  ranges: ['Link ranges', 'Both ends and the amount of links'],
  order: ['Order', 'The order of effects'],
} as const
function toggle(k: (typeof diceKinds)[number]): void {
  const { kinds } = dice
  kinds.value = kinds.value.includes(k) ? kinds.value.filter((x) => x !== k) : [...kinds.value, k]
}
const locks = computed(() => doc.project?.locks ?? [])
const count = computed(() => (dice.throws.value ? dice.throws.value.states.length - 1 : 0))
const at = computed(() => dice.throws.value?.at ?? 0)
const status = computed(() => {
  if (dice.busy.value) return 'Measuring…'
  if (dice.said.value) return dice.said.value
  return count.value
    ? at.value
      ? `Throw ${at.value} of ${count.value}`
      : 'Before the first throw'
    : 'As loud as before, within 2 LU'
})
function unlockAll(): void {
  doc.edit('Unlock all for dice', (p) => {
    p.locks = []
  })
}
</script>

<template>
  <aside
    ref="root"
    class="fixed right-0.5 bottom-35 z-30 w-71 border border-ink bg-sheet p-3"
    aria-label="Dice"
    @keydown.esc.stop="screen.dice = false"
  >
    <header class="flex items-center">
      <h2 class="panel-title flex-1">Dice</h2>
      <button
        class="small-button"
        aria-label="Close dice"
        title="Closes the dice (Shift+X)"
        @click="screen.dice = false"
      >
        ×
      </button>
    </header>
    <div class="mt-1 grid grid-cols-[60px_1fr] items-center gap-1">
      <span class="text-second">Throw</span>
      <ChoiceField
        v-if="chosen"
        class="[&>button]:w-full"
        label="Subject of the throw"
        hide-label
        :model-value="chosen.value"
        :options="scopes"
        @update:model-value="choose"
      />
      <span class="text-second">Amount</span>
      <ValueField
        class="w-20"
        :spec="amount"
        :value="dice.amount.value"
        title="Most that a value moves, as a share of its range"
        @take="dice.amount.value = $event"
      />
    </div>
    <div class="mt-2 flex flex-wrap gap-1" role="group" aria-label="What may change">
      <button
        v-for="k in diceKinds"
        :key="k"
        class="small-button"
        :aria-pressed="dice.kinds.value.includes(k)"
        :title="texts[k][1]"
        @click="toggle(k)"
      >
        {{ texts[k][0] }}
      </button>
    </div>
    <div class="mt-2 flex items-center gap-1">
      <button
        class="plain-button flex flex-1 items-center justify-center gap-1"
        data-throw
        :disabled="dice.busy.value"
        title="Throws once. Undo takes it back."
        @click="chosen && dice.throw(chosen.scope)"
      >
        <Dices :size="15" aria-hidden="true" /> Throw
      </button>
      <button
        class="plain-button px-2"
        aria-label="Older throw"
        title="Goes back to the throw before"
        :disabled="at === 0"
        @click="dice.walk(-1)"
      >
        <ChevronLeft :size="15" aria-hidden="true" />
      </button>
      <button
        class="plain-button px-2"
        aria-label="Newer throw"
        title="Goes to the next throw"
        :disabled="at >= count"
        @click="dice.walk(1)"
      >
        <ChevronRight :size="15" aria-hidden="true" />
      </button>
    </div>
    <p class="mt-1 min-h-9 text-small text-second" role="status">{{ status }}</p>
    <p class="flex items-center gap-2 border-t border-line pt-1 text-tiny text-second">
      <span class="flex-1">{{
        locks.length ? `${locks.length} locked` : 'Shift+L locks the focused gauge, effect or modulator.'
      }}</span>
      <button
        v-if="locks.length"
        class="small-button"
        title="Unlocks all gauges, effects and modulators"
        @click="unlockAll"
      >
        Unlock all
      </button>
    </p>
  </aside>
</template>
