<script setup lang="ts">
/** Files of the song, its tracks and branches: chosen, queued, written, measured. */
</script>

<template>
  <RenderView class="h-full" />
</template>
