<script setup lang="ts">
/** A gauge stacked over its name, for narrow panels. */
defineProps<{ owner: string, param: string, name?: string }>()
</script>

<template>
  <div class="mini"><GaugeRow :owner="owner" :param="param" :name="name" /></div>
</template>

<style scoped>
.mini :deep(.grid) { grid-template-columns: 1fr auto !important; grid-template-areas: "name value" "staff badges"; row-gap: 0; }
.mini :deep(.grid > *:nth-child(1)) { grid-area: name; font-size: 13px; }
.mini :deep(.grid > *:nth-child(2)) { grid-area: staff; }
.mini :deep(.grid > *:nth-child(3)) { grid-area: value; font-size: 13px; }
.mini :deep(.grid > *:nth-child(4)) { grid-area: badges; }
</style>
