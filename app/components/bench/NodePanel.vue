<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { computed } from 'vue'
import { containerTip, containers, enclose } from '../../commands/enclose'
import { useSession } from '../../composables/useSession'

/**
 * What is selected: an effect or a container with its picture on the left and its gauges on the right, or a
 * track's source.
 */
const session = useSession()
const { doc, selection } = session
/** The node itself, or the split that a branch is of. */
const node = computed(() =>
  selection.owner?.kind === 'node' || selection.owner?.kind === 'branch' ? selection.owner.node : undefined,
)
const sourceTrack = computed(() => (selection.owner?.kind === 'source' ? selection.owner.track : undefined))
/** Lanes with too many columns for the half beside the picture: they lie below both. */
const wideLanes = computed(() =>
  node.value?.kind === 'effect'
    ? Object.entries(effectDefinition(node.value.type)?.lanes ?? {}).flatMap(([lane, spec]) =>
        spec.asTable === 'wide' ? [lane] : [],
      )
    : [],
)
const isEmpty = computed(() => doc.project?.tracks.every((t) => t.kind === 'mix') ?? false)
</script>

<template>
  <section class="flex h-full min-h-0 flex-col bg-sheet" aria-label="Selected effect" data-region="effect">
    <div v-if="selection.selected.length > 1" class="flex items-center gap-2 border-b border-line px-3 py-2">
      <span>{{ selection.selected.length }} selected</span>
      <button
        v-for="c in containers"
        :key="c.kind"
        class="plain-button"
        :title="containerTip(c)"
        @click="enclose(session, c.kind)"
      >
        {{ c.label }}
      </button>
    </div>
    <div v-if="isEmpty" class="min-h-0 overflow-y-auto p-6">
      <h2 class="water-name mb-1 text-place">An empty project</h2>
      <p class="mb-3 text-second">
        Start with a shipped sound or chain, a file of your own, or a live input.
      </p>
      <FirstTrack class="max-w-140" />
    </div>
    <SourcePanel v-else-if="sourceTrack" :key="sourceTrack.id" :track="sourceTrack" />
    <div v-else-if="!node" class="p-6 text-second">
      <p class="water-name text-heading">Nothing selected</p>
      <p>
        Select an effect on the chart, or press <b>A</b> to add one. Drop a sound file anywhere to add it as a
        track.
      </p>
    </div>
    <template v-else>
      <NodeHeader :key="node.id" :node="node" />
      <div class="node-panel relative grid min-h-0 flex-1" :class="{ parted: wideLanes.length }">
        <NodePicture :node="node" class="border-r border-line" />
        <NodeGauges :node="node" />
        <div
          v-for="lane in wideLanes"
          :key="`${node.id}${lane}`"
          class="col-span-2 min-h-0 overflow-y-auto border-t border-line px-3"
        >
          <LaneEditor :owner="node.id" :lane="lane" />
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.node-panel {
  grid-template-columns: minmax(260px, 46%) 1fr;
}
.parted {
  grid-template-rows: minmax(0, 196px) minmax(0, 1fr);
}
</style>
