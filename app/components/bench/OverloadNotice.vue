<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import { useSession } from '../../composables/useSession'

/** The effect that costs most when the engine has too much to do, and what can be done about it. */
const { doc, guards, notices, overload, rendering, views } = useSession()

function print(track: string): void {
  rendering.order.value = { ...rendering.order.value, what: 'track', track, range: 'loop' }
  void views.go('/render')
}
</script>

<template>
  <div
    v-if="notices.overload"
    role="status"
    class="flex flex-wrap items-center gap-x-3 border-b border-magenta bg-sheet px-4 py-1 text-small"
  >
    <span class="text-magenta">The audio engine is overloaded.</span>
    <span>
      {{ notices.overload.name }} on {{ notices.overload.track.name }} uses most CPU:
      {{ (notices.overload.share * 100).toFixed(0) }} % of a core.
    </span>
    <button
      class="small-button"
      title="Shows the effect on its track"
      @click="guards.show(notices.overload.node)"
    >
      Go to it
    </button>
    <button
      class="small-button"
      :title="`Bypasses ${notices.overload.name}; X turns it back on`"
      @click="doc.edit(`Bypass ${notices.overload.name}`, setParam(notices.overload.node, 'on', 0))"
    >
      Bypass
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
      :title="`Renders ${notices.overload.track.name} to a file, to play in its place`"
      @click="print(notices.overload.track.id)"
    >
      Render the track
    </button>
    <button
      class="small-button"
      title="Dismisses this message until the load has been normal for two seconds"
      @click="overload.dismiss()"
    >
      Dismiss
    </button>
  </div>
</template>
