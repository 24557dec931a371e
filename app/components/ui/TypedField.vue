<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { sentence } from '../../services/sentence'

/**
 * A field whose text is read by `take` when it is left or by Enter. Text that was not changed is not read.
 * What `take` refuses (by an error with a sentence) stays visible with that sentence, and nothing is stored;
 * Escape takes it back.
 */
const { value, take, label } = defineProps<{ value: string; take: (text: string) => void; label: string }>()
const emit = defineEmits<{ done: []; refused: [is: boolean] }>()

/** The typed or refused text; null while the value is shown. */
const draft = ref<string | null>(null)
const wrong = ref('')
const shown = computed(() => draft.value ?? value)
// what is true from elsewhere is shown, unless it is just being typed over
watch(
  () => value,
  () => {
    if (wrong.value) takeBack()
  },
)
watch(wrong, () => emit('refused', wrong.value !== ''), { flush: 'sync' })

function read(): void {
  if (draft.value === null || draft.value === value) return takeBack()
  try {
    take(draft.value)
    takeBack()
  } catch (error) {
    wrong.value = sentence(error)
  }
}

function takeBack(): void {
  draft.value = null
  wrong.value = ''
}

function enter(): void {
  read()
  if (!wrong.value) emit('done')
}

/**
 * Keys are the field's own, but for an Escape that takes nothing back: that closes what the field stands in.
 */
function keydown(e: KeyboardEvent): void {
  if (e.key === 'Escape' && draft.value === null) return
  e.stopPropagation()
  if (e.key === 'Escape') takeBack()
  if (e.key !== 'Enter') return
  e.preventDefault()
  enter()
  // the next key is a shortcut again
  if (!wrong.value) (e.target as HTMLElement).blur()
}
</script>

<template>
  <span class="relative inline-block">
    <input
      class="field w-full"
      :value="shown"
      :aria-label="label"
      :aria-invalid="wrong !== ''"
      @input="draft = ($event.target as HTMLInputElement).value"
      @focus="($event.target as HTMLInputElement).select()"
      @keydown="keydown"
      @blur="read"
    />
    <span
      v-if="wrong"
      role="alert"
      class="absolute top-full left-0 z-40 w-56 border border-magenta bg-sheet p-1 text-left text-tiny text-ink"
      >{{ wrong }}</span
    >
  </span>
</template>
