<script setup lang="ts">
/** Curves, sections, sources and automation along the song. */
</script>

<template>
  <TimelineView class="h-full" />
</template>
