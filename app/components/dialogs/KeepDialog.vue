<script setup lang="ts">
import { ref } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Keeps something on the shelf under a name, with tags by which it is found. */
const { doc, shelf, screen } = useSession()
const name = ref(screen.toKeep?.name ?? '')
const tags = ref(screen.toKeep?.tags.join(', ') ?? '')
const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`

async function keep(): Promise<void> {
  const preset = screen.toKeep
  if (!preset || !name.value.trim()) return
  try {
    await shelf.keep({
      ...preset,
      name: name.value.trim().slice(0, 120),
      tags: tags.value
        .split(',')
        .map((t) => t.trim().slice(0, 40))
        .filter(Boolean)
        .slice(0, 20),
    })
    screen.dialog = ''
  } catch (error) {
    doc.trouble = `It could not be kept: ${sentence(error)}`
  }
}
</script>

<template>
  <BaseDialog v-if="screen.toKeep" title="Keep on the shelf" @close="screen.dialog = ''">
    <form class="grid grid-cols-[80px_1fr] items-center gap-2" @submit.prevent="keep">
      <label for="keep-name">Name</label>
      <input id="keep-name" v-model="name" class="field" maxlength="120" required />
      <label for="keep-tags">Tags</label>
      <input
        id="keep-tags"
        v-model="tags"
        class="field"
        title="Words by which it is found, with commas between them"
      />
      <span class="text-second">Holds</span>
      <span class="text-small">
        {{ count(screen.toKeep.chain.nodes.length, 'effect') }},
        {{ count(screen.toKeep.modulators.length, 'modulator') }},
        {{ count(screen.toKeep.links.length, 'link') }}
      </span>
      <span />
      <button
        class="plain-button justify-self-start"
        :disabled="!name.trim()"
        title="Keeps it in this browser (Enter)"
      >
        Keep
      </button>
    </form>
  </BaseDialog>
</template>
