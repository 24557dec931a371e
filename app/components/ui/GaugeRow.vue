<script setup lang="ts">
import { isStepped } from '@oleaje/core/units/parameter'
import { ref } from 'vue'
import type { TimePair } from '@oleaje/core/contract/effect'
import { useParam } from '../../composables/useParam'
import ChoiceGauge from './ChoiceGauge.vue'
import Gauge from './Gauge.vue'

/** A gauge with what opens below it: the list of modulators asked for by M, and the details of a link. */
const props = defineProps<{ owner: string; param: string; name?: string; pair?: TimePair }>()
const p = useParam(
  () => props.owner,
  () => props.param,
)
const asking = ref(false)
const shownLink = ref('')
</script>

<template>
  <div class="border-b border-dotted border-line py-0.75">
    <component
      :is="p.spec.value && isStepped(p.spec.value) ? ChoiceGauge : Gauge"
      :owner="owner"
      :param="param"
      :name="name"
      :pair="pair"
      @ask="asking = !asking"
      @link="shownLink = shownLink === $event ? '' : $event"
    />
    <LinkMenu v-if="asking" :owner="owner" :param="param" @close="asking = false" />
    <LinkDetails
      v-if="shownLink && p.links.value.some((l) => l.link.id === shownLink)"
      :id="shownLink"
      @close="shownLink = ''"
    />
  </div>
</template>
