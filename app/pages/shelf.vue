<script setup lang="ts">
/** Presets that ship and that were kept: found, previewed, inserted. */
</script>

<template>
  <ShelfView class="h-full" />
</template>
