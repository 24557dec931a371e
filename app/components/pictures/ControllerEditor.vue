<script setup lang="ts">
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { gaugeKey } from '@oleaje/core/project/param-path'
import type { Modulator } from '@oleaje/core/project/schema'
import { removeControl } from '@oleaje/core/project/song-edits'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { controlName } from '../../services/device-router'

/** The assigned controller of a modulator. */
const props = defineProps<{ modulator: Modulator }>()
const { doc, devices } = useSession()
const param = computed(() => modulatorDefinition(props.modulator.type)?.learns ?? 'value')
const control = computed(() =>
  doc.project?.controls.find((c) => c.target.owner === props.modulator.id && c.target.param === param.value),
)
</script>

<template>
  <div class="flex items-center gap-1 py-1 text-small">
    <span class="flex-1">{{ control ? `assigned: ${controlName(control.message)}` : 'not assigned' }}</span>
    <button
      class="small-button"
      title="Assigns the control that you move next"
      @click="devices.controlFor = gaugeKey(modulator.id, param)"
    >
      Assign
    </button>
    <button
      v-if="control"
      class="small-button"
      title="Unassigns the controller"
      @click="doc.edit('Unassign controller', removeControl(control.id))"
    >
      Unassign
    </button>
  </div>
</template>
