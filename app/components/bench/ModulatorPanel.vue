<script setup lang="ts">
import { modulators as kinds } from '@oleaje/core/modulators/index'
import { setParam } from '@oleaje/core/project/value-edits'
import { gaugeKey, pathOf } from '@oleaje/core/project/param-path'
import type { Modulator } from '@oleaje/core/project/schema'
import { rename } from '@oleaje/core/project/chain-edits'
import { removeModulator } from '@oleaje/core/project/motion-edits'
import { Switch } from '../ui/parts/switch'
import { computed, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/** Macros and modulators of the selected track. A modulator opens in place to its own gauges. */
const session = useSession()
const { doc, selection, screen } = session
/** Macro whose modulators are asked for. */
const asked = ref('')
/** The kind that stands up, and the kinds that are listed below. */
const macroType = kinds.find((d) => d.isMacro)?.id ?? ''
const isMacro = (m: Modulator): boolean => m.type === macroType
const addable = [
  kinds.flatMap((k) =>
    k.isMacro ? [] : [{ text: k.name, tip: k.tip, run: () => session.addModulator(k.id) }],
  ),
]
const macros = computed(() => selection.track?.modulators.filter(isMacro) ?? [])
const motions = computed(() => selection.track?.modulators.filter((m) => !isMacro(m)) ?? [])
const linkCount = (id: string): number => doc.project?.links.filter((l) => l.source === id).length ?? 0
const isSwitch = (m: Modulator): boolean => m.params.mode === 1
const lit = (m: Modulator): boolean => {
  const t = selection.pointed?.target
  return (
    selection.pointed?.modulator === m.id ||
    (!!t &&
      !!doc.project?.links.some((l) => l.source === m.id && gaugeKey(l.target.owner, pathOf(l.target)) === t))
  )
}

function take(m: Modulator): void {
  selection.inHand = selection.inHand === m.id ? null : m.id
  selection.handOutput = null
  selection.traced = m.id
}

/** Carrying starts when the badge is dragged away; a plain click takes it in hand. */
function grab(e: PointerEvent, m: Modulator): void {
  const x = e.clientX
  const y = e.clientY
  const move = (e2: PointerEvent): void => {
    if (Math.hypot(e2.clientX - x, e2.clientY - y) > 6) selection.carried = m.id
  }
  addEventListener('pointermove', move)
  addEventListener(
    'pointerup',
    () => {
      removeEventListener('pointermove', move)
      setTimeout(() => {
        selection.carried = null
      })
    },
    { once: true },
  )
}
</script>

<template>
  <section
    class="flex h-full flex-col overflow-y-auto"
    aria-label="Macros and modulators"
    data-region="modulators"
  >
    <header class="flex items-center justify-between px-3 pt-2 pb-1">
      <h2 class="panel-title">Macros</h2>
      <button
        class="plain-button"
        title="Adds a macro: one control that moves many"
        @click="session.addModulator(macroType)"
      >
        Add
      </button>
    </header>
    <div class="flex flex-wrap gap-x-2 gap-y-2 border-b border-line px-3 pb-2">
      <p v-if="!macros.length" class="text-small text-second">
        A macro moves many controls at once. Add one, then link it.
      </p>
      <div
        v-for="m in macros"
        :key="m.id"
        :data-modulator="m.id"
        class="flex w-18.5 flex-col items-center"
        :class="{ 'bg-shoal': lit(m) }"
        @pointerenter="selection.pointed = { modulator: m.id }"
        @pointerleave="selection.pointed = null"
      >
        <Switch
          v-if="isSwitch(m)"
          class="flex h-15.5 w-8.5 flex-col border border-ink"
          :model-value="(m.params.value ?? 0) >= 0.5"
          :aria-label="`Macro ${m.name}`"
          :title="`${m.name}: a switch`"
          :data-gauge="gaugeKey(m.id, 'value')"
          @update:model-value="
            (on: boolean) => doc.edit(`Turn ${m.name} on or off`, setParam(m.id, 'value', on ? 1 : 0))
          "
        >
          <span class="flex-1" :class="(m.params.value ?? 0) >= 0.5 ? 'bg-ink' : ''" />
          <span class="flex-1" :class="(m.params.value ?? 0) >= 0.5 ? '' : 'bg-ink'" />
        </Switch>
        <MacroStaff
          v-else
          :owner="m.id"
          :name="m.name"
          :hue="m.hue"
          @ask="asked = asked === m.id ? '' : m.id"
        />
        <span class="mt-1 flex max-w-full items-center gap-1">
          <button
            class="touch-none"
            :title="`${m.name}: click to link it, or drag it onto a gauge`"
            :aria-label="`Link ${m.name}`"
            :aria-pressed="selection.inHand === m.id"
            @click="take(m)"
            @pointerdown="grab($event, m)"
          >
            <Badge :letter="m.letter" :hue="m.hue" small />
          </button>
          <TextField
            class="w-full min-w-0 bg-transparent text-small font-semibold"
            :value="m.name"
            :aria-label="`Name of macro ${m.name}`"
            title="Type a new name"
            @change="doc.edit('Rename macro', rename(m.id, ($event.target as HTMLInputElement).value))"
            @keydown.stop
          />
        </span>
        <span class="flex items-center gap-1">
          <button
            class="text-tiny text-second underline"
            :title="`Lists the links of ${m.name}`"
            @click="
              () => {
                screen.shownMacro = m.id
                screen.dialog = 'macro'
              }
            "
          >
            {{ linkCount(m.id) }} {{ linkCount(m.id) === 1 ? 'link' : 'links' }}
          </button>
          <button
            class="text-tiny text-second"
            :aria-label="`Remove macro ${m.name}`"
            title="Removes the macro and its links (Delete)"
            @click="doc.edit(`Remove ${m.name}`, removeModulator(m.id))"
          >
            ×
          </button>
        </span>
      </div>
      <LinkMenu v-if="asked" class="w-full" :owner="asked" param="value" @close="asked = ''" />
    </div>
    <header class="flex items-center justify-between px-3 pt-2 pb-1">
      <h2 class="panel-title">Modulators</h2>
      <ActionMenu label="Add modulator" tip="Adds a modulator to this track" :groups="addable"
        >Add</ActionMenu
      >
    </header>
    <p v-if="!motions.length" class="px-3 text-small text-second">
      No modulators yet. Add an LFO, or press M on a gauge.
    </p>
    <ModulatorCard
      v-for="m in motions"
      :key="m.id"
      :modulator="m"
      :lit="lit(m)"
      @take="take(m)"
      @grab="grab($event, m)"
    />
  </section>
</template>
