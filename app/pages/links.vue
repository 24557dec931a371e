<script setup lang="ts">
/** Every link of the project in one table. */
</script>

<template>
  <LinksTable class="h-full" />
</template>
