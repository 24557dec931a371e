<script setup lang="ts">
import { effects } from '@oleaje/core/effects/index'
import type { EffectPreset } from '@oleaje/core/contract/effect'
import { addNode } from '@oleaje/core/project/chain-edits'
import { effectFrom, newBranch, newEffect, newId, newSplit } from '@oleaje/core/project/new'
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { computed, ref } from 'vue'
import { actions } from '../../composables/actions'
import { useSession } from '../../composables/useSession'

/** One field that finds: an effect to add, or for Ctrl+K any action as well. */
const session = useSession()
const { doc, bench } = session
const query = ref('')
const adding = bench.dialog === 'add'
const recent = ref<string[]>(JSON.parse(sessionStorage.getItem('recent-effects') ?? '[]') as string[])

interface Found { id: string, name: string, tip: string, run: () => void }

function add(type: string, preset?: EffectPreset): void {
  const track = bench.track
  if (!track) return
  const spot = bench.addSpot ?? (bench.selectedId && bench.selection?.kind === 'node' ? { after: bench.selectedId } : { startOf: track.id })
  const id = newId()
  const node = type === 'split' ? newSplit([newBranch('first', -6), newBranch('second', -6)], id) : preset ? effectFrom(type, preset, id) : newEffect(type, {}, id)
  doc.edit(`Add ${type}`, addNode(node, spot))
  recent.value = [type, ...recent.value.filter((t) => t !== type)].slice(0, 5)
  sessionStorage.setItem('recent-effects', JSON.stringify(recent.value))
  bench.select(id)
}

const all = computed<Found[]>(() => {
  const order = (id: string): number => (recent.value.includes(id) ? recent.value.indexOf(id) : 99)
  const fx: Found[] = effects.map((e) => ({ id: e.id, name: e.name, tip: e.tip, run: () => add(e.id) }))
  fx.push({ id: 'split', name: 'Split', tip: 'Two parallel copies of the sound, added up where they merge', run: () => add('split') })
  fx.sort((a, b) => order(a.id) - order(b.id))
  // presets come after all effects, so that a name alone finds the effect first
  fx.push(...effects.flatMap((e) => (e.presets ?? []).map((p): Found => ({ id: `${e.id}/${p.name}`, name: `${e.name}: ${p.name}`, tip: 'preset', run: () => add(e.id, p) }))))
  if (adding) return fx
  return [...actions(session).map((a) => ({ id: a.name, name: a.name, tip: a.keys, run: a.run })), ...fx.map((f) => ({ ...f, name: `Add ${f.name}` }))]
})
const found = computed(() => all.value.filter((f) => query.value.toLowerCase().split(/\s+/).every((w) => `${f.name} ${f.tip}`.toLowerCase().includes(w))))

function choose(f: Found | null): void {
  if (!f) return
  bench.dialog = ''
  // what is added still needs to know where
  f.run()
  bench.addSpot = null
}

/** With nothing walked to yet, Enter takes the first that is found. */
function enter(walkedTo: Found | null): void { if (!walkedTo) choose(found.value[0] ?? null) }

function close(): void {
  bench.dialog = ''
  bench.addSpot = null
}
</script>

<template>
  <BaseDialog :title="adding ? 'Add an effect' : 'Find'" @close="close">
    <Combobox v-slot="{ activeOption }" :model-value="null" @update:model-value="choose">
      <ComboboxInput class="field w-full" :placeholder="adding ? 'filter, delay, drive …' : 'an action, an effect or a preset'" aria-label="Search" autocomplete="off" @change="query = $event.target.value" @keydown.enter="enter(activeOption)" />
      <ComboboxOptions static class="mt-2 max-h-[50vh] overflow-y-auto">
        <ComboboxOption v-for="f in found" :key="f.id" v-slot="{ active }" :value="f"><div class="flex cursor-pointer justify-between gap-3 px-2 py-1" :class="{ 'bg-shoal': active }"><b class="whitespace-nowrap">{{ f.name }}</b><span class="text-right text-[13px] text-second">{{ f.tip }}</span></div></ComboboxOption>
        <li v-if="!found.length" class="px-2 py-1 text-second">Nothing is called that.</li>
      </ComboboxOptions>
    </Combobox>
  </BaseDialog>
</template>
