<script setup lang="ts">
/** Variants of one chain, and one chain on many sounds, side by side. */
</script>

<template>
  <TryOutsView class="h-full" />
</template>
