<script setup lang="ts">
import { removeLink, updateLink } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { pathOf } from '@oleaje/core/project/param-path'
import { computed } from 'vue'
import { linkSpecs, readLinks, typeEnds } from '../../composables/useLink'
import { useScaling } from '../../composables/useScaling'
import { useSession } from '../../composables/useSession'

/**
 * All that one macro or modulator moves: low and high of each, to be typed; learning both ends; parts taken
 * out.
 */
const props = defineProps<{ id: string }>()
const session = useSession()
const { doc, selection, screen } = session
const m = computed(() => doc.project?.tracks.flatMap((t) => t.modulators).find((x) => x.id === props.id))
const isMacro = computed(() => modulatorDefinition(m.value?.type ?? '')?.isMacro ?? false)
const rows = computed(() =>
  doc.project ? readLinks(doc.project).filter((l) => l.link.source === props.id) : [],
)
const scaling = useScaling()

function learn(): void {
  doc.edit('Move macro', setParam(props.id, 'value', 0))
  selection.learning = { macro: props.id, end: 'from' }
  screen.dialog = ''
}

function jump(owner: string, path: string): void {
  screen.dialog = ''
  void session.views.showGauge(owner, path)
}
</script>

<template>
  <BaseDialog v-if="m" :title="`Links of ${m.name}`" wide @close="screen.dialog = ''">
    <div class="mb-2 flex flex-wrap items-center gap-2">
      <button
        v-if="isMacro"
        class="plain-button"
        title="Sets the minimum, then the maximum, of every gauge that you set meanwhile"
        @click="learn"
      >
        Learn range…
      </button>
      <button
        v-if="isMacro"
        class="plain-button"
        :aria-pressed="m.params.mode === 1"
        title="Makes the macro a switch instead of a continuous control"
        @click="doc.edit('Change macro', setParam(m.id, 'mode', m.params.mode === 1 ? 0 : 1))"
      >
        Switch
      </button>
      <span class="flex-1" />
      <label class="text-small"
        >All amounts
        <ValueField
          class="w-17"
          :spec="scaling.spec"
          :value="scaling.factor.value"
          @take="scaling.factor.value = $event"
          @refused="scaling.refused.value = $event"
      /></label>
      <button
        class="plain-button"
        :disabled="!rows.length"
        title="Scales the amounts of all links"
        @click="scaling.scale(rows.map((r) => r.link.id))"
      >
        Scale
      </button>
    </div>
    <GaugeRow v-if="isMacro && m.params.mode === 1" :owner="m.id" param="glide" />
    <p v-if="!rows.length" class="py-2 text-second">
      No links yet. Click its badge and drag on a gauge, or learn a range.
    </p>
    <table v-else class="w-full text-small">
      <thead>
        <tr class="text-left text-second">
          <th class="font-normal">what</th>
          <th class="font-normal">Minimum</th>
          <th class="font-normal">Maximum</th>
          <th class="font-normal">amount</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="r in rows"
          :key="r.link.id"
          class="border-t border-dotted border-line"
          :class="{ 'opacity-60': !r.link.on }"
        >
          <td class="py-1 pr-2">
            <button
              class="text-left underline"
              title="Shows the gauge"
              @click="jump(r.link.target.owner, pathOf(r.link.target))"
            >
              {{ r.owner }}, {{ r.param.toLowerCase() }}</button
            ><span v-if="r.track !== selection.track?.name" class="ml-1 text-second">{{ r.track }}</span>
          </td>
          <td v-for="end in ['from', 'to'] as const" :key="end">
            <TypedField
              class="w-24"
              :value="r[end]"
              :label="`${end === 'from' ? 'Minimum' : 'Maximum'} of ${r.owner} ${r.param}`"
              :take="(text: string) => typeEnds(session, [r.link.id], end, text)"
            />
          </td>
          <td>
            <ValueField
              class="w-15.5"
              :spec="{ ...linkSpecs.amount, name: `Amount on ${r.owner} ${r.param}` }"
              :value="r.link.amount"
              @take="doc.edit('Set link amount', updateLink(r.link.id, { amount: $event }))"
            />
          </td>
          <td class="whitespace-nowrap text-right">
            <button
              class="small-button"
              :aria-pressed="r.link.on"
              title="Turns the link on or off"
              @click="doc.edit('Turn link on or off', updateLink(r.link.id, { on: !r.link.on }))"
            >
              {{ r.link.on ? 'on' : 'off' }}
            </button>
            <button
              class="small-button ml-1"
              title="Removes the link"
              :aria-label="`Remove the link to ${r.owner} ${r.param}`"
              @click="doc.edit('Remove link', removeLink(r.link.id))"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </BaseDialog>
</template>
