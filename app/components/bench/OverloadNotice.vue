<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import { useSession } from '../../composables/useSession'

/** The effect that costs most when the engine has too much to do, and what can be done about it. */
const { doc, guards, notices, overload, screen } = useSession()

function print(track: string): void {
  screen.toPrint = track
  screen.dialog = 'render'
}
</script>

<template>
  <div
    v-if="notices.overload"
    role="status"
    class="flex flex-wrap items-center gap-x-3 border-b border-magenta bg-sheet px-4 py-1 text-small"
  >
    <span class="text-magenta">The engine has more to do than it has time for.</span>
    <span>
      {{ notices.overload.name }} on {{ notices.overload.track.name }} costs most:
      {{ (notices.overload.share * 100).toFixed(0) }} % of a core.
    </span>
    <button
      class="small-button"
      title="Shows it on the chart of its track"
      @click="guards.show(notices.overload.node)"
    >
      Go to it
    </button>
    <button
      class="small-button"
      :title="`Bypasses ${notices.overload.name}, which then takes no time; X switches it on again`"
      @click="doc.edit(`Bypass ${notices.overload.name}`, setParam(notices.overload.node, 'on', 0))"
    >
      Bypass it
    </button>
    <button
      v-if="notices.overload.better"
      class="small-button"
      :title="`Sets the quality of ${notices.overload.name} to ${notices.overload.better.name}`"
      @click="
        doc.edit(
          `Lower the quality of ${notices.overload.name}`,
          setParam(notices.overload.node, 'quality', notices.overload.better.value),
        )
      "
    >
      Quality: {{ notices.overload.better.name }}
    </button>
    <button
      class="small-button"
      :title="`Renders ${notices.overload.track.name} to a file, to be played in its place`"
      @click="print(notices.overload.track.id)"
    >
      Print the track
    </button>
    <button
      class="small-button"
      title="Hides this line until the load has been normal for two seconds"
      @click="overload.dismiss()"
    >
      Dismiss
    </button>
  </div>
</template>
