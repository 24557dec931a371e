<script setup lang="ts">
/** Test signals through the selected track’s chain, and what was measured. */
</script>

<template>
  <LabView class="h-full" />
</template>
