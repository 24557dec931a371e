<script setup lang="ts">
import type { TimePair } from '@oleaje/core/contract/effect'

/** A gauge stacked over its name, for narrow panels. */
defineProps<{ owner: string; param: string; name?: string; pair?: TimePair }>()
</script>

<template>
  <div class="mini">
    <GaugeRow :owner="owner" :param="param" :name="name" :pair="pair" />
  </div>
</template>

<style scoped>
/* the name and the value share a line with the badges; the staff or the choices have the next line alone */
.mini :deep(.grid) {
  grid-template-columns: minmax(0, 1fr) auto auto !important;
  grid-template-areas: 'name value badges' 'staff staff staff';
  gap: 0 4px;
}
.mini :deep(.grid > *:nth-child(1)) {
  grid-area: name;
  font-size: 13px;
}
.mini :deep(.grid > *:nth-child(2)) {
  grid-area: staff;
}
.mini :deep(.grid:not(.choice-gauge) > *:nth-child(3)) {
  grid-area: value;
  font-size: 13px;
}
.mini :deep(.choice-gauge > *:nth-child(3)),
.mini :deep(.grid > *:nth-child(4)) {
  grid-area: badges;
  min-width: 0;
}
</style>
