<script setup lang="ts">
import ChoiceGauge from './ChoiceGauge.vue'
import Gauge from './Gauge.vue'
import { isStepped } from '@oleaje/core/units/parameter'
import type { TimePair } from '../../composables/time-pair'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newId } from '@oleaje/core/project/new'
import { modulators as kinds } from '@oleaje/core/modulators/index'
import { computed, nextTick, ref } from 'vue'
import { useParam } from '../../composables/useParam'
import { useSession } from '../../composables/useSession'
import { firstListen } from '../../services/session'

/** A gauge with what opens below it: the list of modulators asked for by M, and the details of a link. */
const props = defineProps<{ owner: string, param: string, name?: string, pair?: TimePair }>()
const { doc, bench } = useSession()
const p = useParam(() => props.owner, () => props.param)
const asking = ref(false)
const shownLink = ref('')
const list = ref<HTMLElement | null>(null)

const offered = computed(() => (doc.project?.tracks ?? []).flatMap((t) => t.modulators.filter((m) => m.id !== props.owner).map((m) => ({ m, t })))
  .sort((a, b) => Number(b.t.id === bench.track?.id) - Number(a.t.id === bench.track?.id)))

async function ask(): Promise<void> {
  asking.value = !asking.value
  await nextTick()
  list.value?.querySelector('button')?.focus()
}

function close(): void {
  asking.value = false
  document.querySelector<HTMLElement>(`[data-gauge="${p.key.value}"]`)?.focus()
}

function choose(id: string): void {
  p.link(id)
  close()
}

function make(type: string): void {
  const track = bench.track
  if (!track) return
  const id = newId()
  const listens = firstListen(doc.project, type)
  p.link(id, undefined, undefined, addModulator(track.id, type, { id, listens }))
  bench.openModulators = [...bench.openModulators, id]
  close()
}

function walk(e: KeyboardEvent): void {
  const all = [...(list.value?.querySelectorAll('button') ?? [])]
  const at = all.indexOf(document.activeElement as HTMLButtonElement)
  if (e.key === 'ArrowDown') all[(at + 1) % all.length]?.focus()
  else if (e.key === 'ArrowUp') all[(at - 1 + all.length) % all.length]?.focus()
  else if (e.key === 'Escape') close()
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="border-b border-dotted border-line py-[3px]">
    <component
      :is="p.spec.value && isStepped(p.spec.value) ? ChoiceGauge : Gauge"
      :owner="owner"
      :param="param"
      :name="name"
      :pair="pair"
      @ask="ask"
      @link="shownLink = shownLink === $event ? '' : $event"
    />
    <div v-if="asking" ref="list" role="menu" :aria-label="`Modulators for ${p.label.value}`" class="my-1 flex flex-wrap gap-1 bg-shoal p-1" @keydown="walk">
      <button v-for="o in offered" :key="o.m.id" role="menuitem" class="plain-button flex items-center gap-1" @click="choose(o.m.id)">
        <Badge :letter="o.m.letter" :hue="o.m.hue" small /><span class="water-name">{{ o.m.name }}</span><span v-if="o.t.id !== bench.track?.id" class="text-[12px] text-second">{{ o.t.name }}</span>
      </button>
      <button v-for="k in kinds" :key="k.id" role="menuitem" class="plain-button" :title="k.tip" @click="make(k.id)">new {{ k.name }}</button>
    </div>
    <LinkDetails v-if="shownLink && p.links.value.some((l) => l.link.id === shownLink)" :id="shownLink" @close="shownLink = ''" />
  </div>
</template>
