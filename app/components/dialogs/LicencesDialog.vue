<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useSession } from '../../composables/useSession'

/** The licence of Oleaje, and those of the packages that ship with it, as the build found them. */
interface Notice {
  readonly name: string
  readonly version: string
  readonly licence: string
  readonly by: string
  readonly home: string
  readonly text: string
  readonly compiled: string
}
const { screen } = useSession()
const packages = ref<readonly Notice[]>([])
const failed = ref(false)

onMounted(async () => {
  try {
    const response = await fetch(`${useRuntimeConfig().app.baseURL}notices.json`)
    packages.value = (await response.json()) as Notice[]
  } catch {
    failed.value = true
  }
})
</script>

<template>
  <BaseDialog title="Licences" wide @close="screen.dialog = ''">
    <p class="mb-2">Oleaje is licensed under the Apache License 2.0. It includes these packages:</p>
    <p v-if="failed" role="alert">
      The list of licences could not be loaded. Check the connection and open it again.
    </p>
    <ul class="max-h-[60vh] overflow-y-auto pr-2 text-small" tabindex="0" aria-label="Packages and licences">
      <li v-for="n in packages" :key="n.name" class="border-b border-dotted border-line py-1">
        <details>
          <summary>
            <b>{{ n.name }}</b> {{ n.version }} · {{ n.licence
            }}<template v-if="n.by"> · {{ n.by }}</template>
          </summary>
          <p v-if="n.compiled">{{ n.compiled }}</p>
          <p v-if="n.home" class="text-second">{{ n.home }}</p>
          <pre class="whitespace-pre-wrap font-sans">{{
            n.text || `The package has no licence file; its licence is ${n.licence}.`
          }}</pre>
        </details>
      </li>
    </ul>
  </BaseDialog>
</template>
