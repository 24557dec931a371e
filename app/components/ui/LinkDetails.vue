<script setup lang="ts">
import { removeLink, setLinkEnds, setLinkMode, updateLink } from '@oleaje/core/project/edits'
import { findTarget, linkEnds, linkValues } from '@oleaje/core/project/targets'
import { isStepped } from '@oleaje/core/units/parameter'
import { toPlace } from '@oleaje/core/units/scale'
import { formatValue, parseValue } from '@oleaje/core/units/text'
import { computed, ref } from 'vue'
import { sentence, useSession } from '../../composables/useSession'

/** Everything about one link, typed in the target's own units. */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ close: [] }>()
const { doc, bench } = useSession()
const wrong = ref('')

const link = computed(() => doc.project?.links.find((l) => l.id === props.id))
const target = computed(() => (doc.project && link.value ? findTarget(doc.project, link.value.target) : undefined))
const modulator = computed(() => doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === link.value?.source))
const ends = computed(() => (link.value && target.value ? linkValues(link.value, target.value.spec, target.value.base) : { from: 0, to: 0 }))
const show = (v: number): string => (target.value ? formatValue(target.value.spec, v) : '')

function setEnd(which: 'from' | 'to', text: string): void {
  const t = target.value
  const l = link.value
  if (!t || !l) return
  try {
    const place = toPlace(t.spec, parseValue(t.spec, text, ends.value[which]))
    const now = linkEnds(l, t.spec, t.base)
    doc.edit('Set range', setLinkEnds(props.id, which === 'from' ? place : now.from, which === 'to' ? place : now.to))
    wrong.value = ''
  } catch (error) {
    wrong.value = sentence(error)
  }
}

const number = (e: Event): number => Number((e.target as HTMLInputElement).value)
const text = (e: Event): string => (e.target as HTMLInputElement).value
</script>

<template>
  <div v-if="link && target" class="my-1 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-2 bg-shoal px-2 py-1 text-[13px]" :style="{ borderColor: `var(--hue-${modulator?.hue ?? 0})` }" @keydown.esc.stop="emit('close')" @keydown.stop>
    <span class="water-name">{{ modulator?.name }}</span>
    <label>at its lowest <input class="field w-[84px]" :value="show(ends.from)" @change="setEnd('from', text($event))"></label>
    <label>at its highest <input class="field w-[84px]" :value="show(ends.to)" @change="setEnd('to', text($event))"></label>
    <button
      v-if="!isStepped(target.spec)" class="small-button" title="Floating: the range moves along with the base. Fixed: it stays at its values"
      @click="doc.edit('Change link mode', setLinkMode(id, link.mode === 'fixed' ? 'floating' : 'fixed'))"
    >{{ link.mode }}</button>
    <label>amount <input class="field w-[62px]" type="number" min="0" max="100" :value="Math.round(link.amount * 100)" @change="doc.edit('Set link amount', updateLink(id, { amount: Math.min(1, Math.max(0, number($event) / 100)) }))"> %</label>
    <label>bend <input class="field w-[62px]" type="number" min="-100" max="100" :value="Math.round(link.curve * 100)" @change="doc.edit('Bend link', updateLink(id, { curve: Math.min(1, Math.max(-1, number($event) / 100)) }))"> %</label>
    <label>slew <input class="field w-[62px]" type="number" min="0" max="10000" :value="Math.round(link.slewUp * 1000)" @change="doc.edit('Set slew', updateLink(id, { slewUp: Math.max(0, number($event) / 1000), slewDown: Math.max(0, number($event) / 1000) }))"> ms</label>
    <button class="small-button" :aria-pressed="link.on" title="Switches the link off and on" @click="doc.edit('Switch link', updateLink(id, { on: !link.on }))">{{ link.on ? 'on' : 'off' }}</button>
    <button class="small-button" title="Removes the link" @click="doc.edit('Remove link', removeLink(id)); emit('close')">Remove</button>
    <span v-if="bench.late.includes(id)" class="text-magenta" title="What moves it is moved by it in turn">one block late: goes round in a circle</span>
    <p v-if="wrong" role="alert" class="w-full text-magenta">{{ wrong }}</p>
  </div>
</template>
