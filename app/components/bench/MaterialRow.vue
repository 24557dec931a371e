<script setup lang="ts">
/** One shipped sound or chain in a list: previewed, or taken into the project. */
defineProps<{ name: string; detail: string; isHeard: boolean; previewTip: string; takeTip: string }>()
const emit = defineEmits<{ preview: []; take: [] }>()
</script>

<template>
  <li class="flex items-center gap-2 border-b border-dotted border-line py-1">
    <span class="min-w-0 flex-1 truncate"
      >{{ name }} <span class="text-second">{{ detail }}</span></span
    >
    <button
      class="small-button"
      :aria-pressed="isHeard"
      :aria-label="`Preview ${name}`"
      :title="previewTip"
      @click="emit('preview')"
    >
      {{ isHeard ? 'Stop' : 'Preview' }}
    </button>
    <button class="small-button" :aria-label="`Take ${name}`" :title="takeTip" @click="emit('take')">
      Take
    </button>
  </li>
</template>
