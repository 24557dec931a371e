<script setup lang="ts">
import { modulatorDefinition, modulators as kinds } from '@oleaje/core/modulators/index'
import { duplicateModulator, removeModulator, rename, setListens } from '@oleaje/core/project/edits'
import type { Modulator } from '@oleaje/core/project/schema'
import { formatValue } from '@oleaje/core/units/text'
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Macros and modulators of the selected track. A modulator opens in place to its own gauges. */
const session = useSession()
const { doc, bench } = session
const macros = computed(() => bench.track?.modulators.filter((m) => m.type === 'macro') ?? [])
const motions = computed(() => bench.track?.modulators.filter((m) => m.type !== 'macro') ?? [])
const linkCount = (id: string): number => doc.project?.links.filter((l) => l.source === id).length ?? 0
const lit = (m: Modulator): boolean => {
  const t = bench.pointed?.target
  return bench.pointed?.modulator === m.id || (!!t && !!doc.project?.links.some((l) => l.source === m.id && `${l.target.owner}.${l.target.param}` === t))
}

function describe(m: Modulator): string {
  const d = modulatorDefinition(m.type)
  if (!d) return m.type
  const show = (k: string): string => (d.params[k] ? formatValue(d.params[k], m.params[k] ?? d.params[k].default) : '')
  if (m.type === 'lfo') return `LFO · ${show('shape')} · ${(m.params.sync ?? 0) >= 0.5 ? show('length') : show('rate')}`
  if (m.type === 'follower') return `follows ${doc.project?.tracks.find((t) => t.id === m.listens?.track)?.name ?? 'nothing'} · ${show('attack')} / ${show('release')}`
  return d.name
}

function take(m: Modulator): void {
  bench.inHand = bench.inHand === m.id ? null : m.id
  bench.traced = m.id
}

/** Carrying starts when the badge is dragged away; a plain click takes it in hand. */
function grab(e: PointerEvent, m: Modulator): void {
  const x = e.clientX
  const y = e.clientY
  const move = (e2: PointerEvent): void => { if (Math.hypot(e2.clientX - x, e2.clientY - y) > 6) bench.carried = m.id }
  addEventListener('pointermove', move)
  addEventListener('pointerup', () => {
    removeEventListener('pointermove', move)
    setTimeout(() => { bench.carried = null })
  }, { once: true })
}

function listen(m: Modulator, value: string): void {
  const [track, point] = value.split(':')
  doc.edit('Change what it follows', setListens(m.id, track ? { track, point: point === 'after' ? 'after' : 'before' } : null))
}
const shownParams = (m: Modulator): string[] => Object.keys(modulatorDefinition(m.type)?.params ?? {}).filter((k) => m.type !== 'lfo' || k !== ((m.params.sync ?? 0) >= 0.5 ? 'rate' : 'length'))
</script>

<template>
  <section class="flex h-full flex-col overflow-y-auto" aria-label="Macros and modulators">
    <header class="flex items-center justify-between px-3 pb-1 pt-2"><h2 class="panel-title">Macros</h2><button class="plain-button" @click="session.addModulator('macro')">Add</button></header>
    <div class="flex flex-wrap gap-x-2 gap-y-3 border-b border-line px-3 pb-2">
      <p v-if="!macros.length" class="text-[13px] text-second">A macro moves many controls at once. Add one, then link it.</p>
      <div v-for="m in macros" :key="m.id" class="flex w-[62px] flex-col items-center" :class="{ 'bg-shoal': lit(m) }" @pointerenter="bench.pointed = { modulator: m.id }" @pointerleave="bench.pointed = null">
        <MacroStaff :owner="m.id" :name="m.name" :hue="m.hue" />
        <button class="mt-1 flex max-w-full items-center gap-1" :title="`${m.name}: click to take it in hand, drag to carry it to a gauge`" :aria-pressed="bench.inHand === m.id" @click="take(m)" @pointerdown="grab($event, m)">
          <Badge :letter="m.letter" :hue="m.hue" small /><span class="truncate text-[13px] font-semibold">{{ m.name }}</span>
        </button>
        <span class="text-[12px] text-second">{{ linkCount(m.id) }} links</span>
      </div>
    </div>
    <header class="flex items-center justify-between px-3 pb-1 pt-2">
      <h2 class="panel-title">Modulators</h2>
      <Menu as="div" class="relative">
        <MenuButton class="plain-button">Add</MenuButton>
        <MenuItems class="absolute right-0 z-30 mt-1 w-32 border border-line bg-sheet py-1">
          <MenuItem v-for="k in kinds.filter((x) => x.id !== 'macro')" :key="k.id" v-slot="{ active }"><button class="block w-full px-3 py-1 text-left" :class="{ 'bg-shoal': active }" :title="k.tip" @click="session.addModulator(k.id)">{{ k.name }}</button></MenuItem>
        </MenuItems>
      </Menu>
    </header>
    <p v-if="!motions.length" class="px-3 text-[13px] text-second">Nothing moves on this track yet. Add an LFO, or press M on a gauge.</p>
    <article
      v-for="m in motions" :key="m.id" class="border-b border-line px-2 py-[6px]" :class="{ 'bg-shoal': lit(m) || bench.inHand === m.id }"
      @pointerenter="bench.pointed = { modulator: m.id }" @pointerleave="bench.pointed = null"
    >
      <div class="flex items-center gap-2">
        <button :title="`Take ${m.name} in hand (G, ${m.letter}), or drag it onto a gauge or an effect`" :aria-label="`Take ${m.name} in hand`" :aria-pressed="bench.inHand === m.id" class="touch-none" :class="{ 'outline-2 outline-magenta rounded-full': bench.inHand === m.id }" @click="take(m)" @pointerdown="grab($event, m)">
          <Badge :letter="m.letter" :hue="m.hue" />
        </button>
        <button class="min-w-0 flex-1 text-left" :aria-expanded="bench.openModulators.includes(m.id)" @click="bench.toggleOpen(m.id); bench.traced = m.id">
          <span class="water-name block truncate text-[16px] leading-tight">{{ m.name }}</span>
          <span class="block truncate text-[12px] text-second">{{ describe(m) }}</span>
        </button>
        <ModulatorTrace :modulator="m" />
      </div>
      <div v-if="bench.openModulators.includes(m.id)" class="mt-1 border-l-2 pl-2" :style="{ borderColor: `var(--hue-${m.hue})` }">
        <label v-if="modulatorDefinition(m.type)?.listens" class="flex items-center gap-2 py-1 text-[13px]">follows
          <select class="field min-w-0 flex-1" :value="m.listens ? `${m.listens.track}:${m.listens.point}` : ''" @change="listen(m, ($event.target as HTMLSelectElement).value)">
            <option value="">nothing</option>
            <template v-for="t in doc.project?.tracks" :key="t.id"><option :value="`${t.id}:before`">{{ t.name }}, before</option><option :value="`${t.id}:after`">{{ t.name }}, after</option></template>
          </select>
        </label>
        <MiniGauge v-for="k in shownParams(m)" :key="k" :owner="m.id" :param="k" />
        <div class="flex flex-wrap gap-1 py-1">
          <input class="field water-name w-full" :value="m.name" aria-label="Name of the modulator" @change="doc.edit('Rename', rename(m.id, ($event.target as HTMLInputElement).value))" @keydown.stop>
          <button class="small-button" title="A copy with the same links" @click="doc.edit('Duplicate modulator', duplicateModulator(m.id, true))">Copy with links</button>
          <button class="small-button" title="A copy that moves nothing yet" @click="doc.edit('Duplicate modulator', duplicateModulator(m.id, false))">Copy</button>
          <button class="small-button" @click="doc.edit(`Remove ${m.name}`, removeModulator(m.id))">Remove</button>
        </div>
      </div>
    </article>
  </section>
</template>
