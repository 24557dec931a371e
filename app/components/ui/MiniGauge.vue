<script setup lang="ts">
import type { TimePair } from '../../composables/time-pair'

/** A gauge stacked over its name, for narrow panels. */
defineProps<{ owner: string; param: string; name?: string; pair?: TimePair }>()
</script>

<template>
  <div class="mini">
    <GaugeRow :owner="owner" :param="param" :name="name" :pair="pair" />
  </div>
</template>

<style scoped>
.mini :deep(.choice-gauge) {
  grid-template-columns: minmax(60px, auto) minmax(0, 1fr) auto !important;
}
.mini :deep(.choice-gauge > *:first-child) {
  font-size: 13px;
}
.mini :deep(.grid:not(.choice-gauge)) {
  grid-template-columns: 1fr auto !important;
  grid-template-areas: 'name value' 'staff badges';
  row-gap: 0;
}
.mini :deep(.grid:not(.choice-gauge) > *:nth-child(1)) {
  grid-area: name;
  font-size: 13px;
}
.mini :deep(.grid:not(.choice-gauge) > *:nth-child(2)) {
  grid-area: staff;
}
.mini :deep(.grid:not(.choice-gauge) > *:nth-child(3)) {
  grid-area: value;
  font-size: 13px;
}
.mini :deep(.grid:not(.choice-gauge) > *:nth-child(4)) {
  grid-area: badges;
}
</style>
