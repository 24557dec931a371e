<script setup lang="ts">
import { actions } from '../../composables/actions'
import { useSession } from '../../composables/useSession'

const session = useSession()
const gauge = [['drag, Shift+drag', 'set, set finely'], ['wheel, arrow keys', 'step'], ['Page Up, Page Down', 'stride'], ['Home, End', 'to the ends'], ['Enter, double-click', 'type a value: 1.2k, -6dB, 1/8., C#4, +7st, x2'], ['Backspace', 'back to the default'], ['M', 'link a modulator'], ['Shift+click', 'mark, to link several at once']]
</script>

<template>
  <BaseDialog title="Keys" wide @close="session.bench.dialog = ''">
    <div class="grid grid-cols-2 gap-6 text-[13px]">
      <dl><div v-for="a in actions(session).filter((x) => x.keys)" :key="a.name" class="flex justify-between gap-2 border-b border-dotted border-line py-[2px]"><dt>{{ a.name }}</dt><dd class="font-semibold whitespace-nowrap">{{ a.keys }}</dd></div></dl>
      <dl><div class="water-name text-[15px]">On a gauge</div><div v-for="[k, what] in gauge" :key="k" class="flex justify-between gap-2 border-b border-dotted border-line py-[2px]"><dt>{{ what }}</dt><dd class="font-semibold whitespace-nowrap">{{ k }}</dd></div></dl>
    </div>
  </BaseDialog>
</template>
