<script setup lang="ts">
import { dearestEffect } from '@oleaje/core/engine/cost-lines'
import { ownerName } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { effectDefinition } from '@oleaje/core/effects/index'
import { onBeforeUnmount, shallowRef, watch } from 'vue'
import { Overload } from '../../composables/overload'
import { useSession } from '../../composables/useSession'

/**
 * When the engine has had too much to do for two seconds: what costs most, and what can be done about it.
 * Nothing is done unasked.
 */
const { doc, host, monitoring, screen } = useSession()
const overload = new Overload()
const told = shallowRef<{
  name: string
  track: { id: string; name: string }
  id: string
  share: number
  better: { value: number; name: string } | null
} | null>(null)
let watching = false
/** Put away by hand: not told again before it has been well in between. */
let dismissed = false

function measure(on: boolean): void {
  if (on === watching) return
  watching = on
  host.watchCosts(on)
}

function look(): void {
  const { telemetry } = host
  if (!monitoring.playing) overload.forget()
  else overload.take(performance.now(), telemetry.fixed('load'))
  if (!overload.isOn) dismissed = false
  measure(monitoring.playing && (overload.isNear || overload.isOn))
  const { project } = doc
  const found =
    overload.isOn && !dismissed && project ? dearestEffect(project, (key) => telemetry.cost(key)) : null
  if (!found) {
    told.value = null
    return
  }
  const { node, track, share } = found
  const quality = node.kind === 'effect' ? effectDefinition(node.type)?.params.quality : undefined
  const now = Math.round(node.params.quality ?? quality?.default ?? 0)
  told.value = {
    id: node.id,
    name: ownerName({ kind: 'node', node, track }),
    track: { id: track.id, name: track.name },
    share,
    better: quality?.choices && now > 0 ? { value: now - 1, name: quality.choices[now - 1] ?? '' } : null,
  }
}

const timer = setInterval(look, 250)
watch(
  () => doc.project?.id,
  () => {
    overload.forget()
    told.value = null
  },
)
onBeforeUnmount(() => {
  clearInterval(timer)
  measure(false)
})

function print(track: string): void {
  screen.toPrint = track
  screen.dialog = 'render'
}
function dismiss(): void {
  dismissed = true
  told.value = null
}
</script>

<template>
  <div
    v-if="told"
    role="status"
    class="flex flex-wrap items-center gap-x-3 border-b border-magenta bg-sheet px-4 py-1 text-small"
  >
    <span class="text-magenta">The engine has more to do than it has time for.</span>
    <span
      >{{ told.name }} on {{ told.track.name }} costs most: {{ (told.share * 100).toFixed(0) }} % of a
      core.</span
    >
    <button
      class="small-button"
      :title="`Bypasses ${told.name}, which then takes no time; X switches it on again`"
      @click="doc.edit(`Let ${told.name} sleep`, setParam(told.id, 'on', 0))"
    >
      Let it sleep
    </button>
    <button
      v-if="told.better"
      class="small-button"
      :title="`Sets the quality of ${told.name} to ${told.better.name}`"
      @click="doc.edit(`Lower the quality of ${told.name}`, setParam(told.id, 'quality', told.better.value))"
    >
      Quality: {{ told.better.name }}
    </button>
    <button
      class="small-button"
      :title="`Renders ${told.track.name} to a file, to be played in its place`"
      @click="print(told.track.id)"
    >
      Print the track
    </button>
    <button
      class="small-button"
      title="Puts this line away until it has been well in between"
      @click="dismiss"
    >
      Leave
    </button>
  </div>
</template>
