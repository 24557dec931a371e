<script setup lang="ts">
/** Curves, sections, sources and rides along the song. */
</script>

<template>
  <TimelineView class="h-full" />
</template>
