<script setup lang="ts">
import type { Project } from '@oleaje/core/project/schema'
import { sentenceOf } from '@oleaje/core/limits'
import { fileOpen } from 'browser-fs-access'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Brings a sound file into the project for an effect that works with one. */
defineProps<{ tip: string }>()
const emit = defineEmits<{ taken: [hash: string, about: Project['audio'][string]] }>()
const { doc, sounds } = useSession()

async function bring(): Promise<void> {
  const file = await fileOpen({
    mimeTypes: ['audio/*'],
    extensions: ['.wav', '.aif', '.aiff', '.flac', '.mp3', '.ogg'],
    description: 'Sound',
  }).catch(() => undefined)
  if (!file) return
  try {
    const read = await sounds.readFile(file)
    if (read?.sound.long) throw new Error(sentenceOf('heldSound', 'the sound'))
    if (read) emit('taken', read.sound.hash, read.ref)
  } catch (error) {
    doc.trouble = `“${file.name}” was not imported: ${sentence(error)}`
  }
}
</script>

<template>
  <button class="small-button" :title="tip" @click="bring">Import sound</button>
</template>
