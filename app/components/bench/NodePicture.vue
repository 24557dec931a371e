<script setup lang="ts">
import { setSplitMode } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { innerLists } from '@oleaje/core/project/nodes/index'
import type { ChainNode, Split } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import ChainResponsePicture from '../pictures/ChainResponsePicture.vue'
import { effectFace } from '../pictures/index'
import { pictureOf } from '../../stores/picture-choices'

/** The picture of the selected effect or container. */
const props = defineProps<{ node: ChainNode }>()
const { doc, selection, screen } = useSession()
const effect = computed(() => (props.node.kind === 'effect' ? props.node : undefined))
const face = computed(() => (effect.value ? effectFace(effect.value.type) : undefined))

const splitKinds: readonly { value: Split['mode']; text: string; tip: string }[] = [
  {
    value: 'copies',
    text: 'copies',
    tip: 'Each branch gets a copy of the sound. The copies are summed.',
  },
  {
    value: 'bands',
    text: 'bands',
    tip: 'Each branch gets one frequency band. All bands together are flat.',
  },
  {
    value: 'mid-side',
    text: 'mid/side',
    tip: 'The first branch gets the mid signal, the second the side signal.',
  },
  {
    value: 'left-right',
    text: 'left/right',
    tip: 'The first branch gets the left channel, the second the right.',
  },
  {
    value: 'pads',
    text: 'pads',
    tip: 'At the start of a kit’s chain, each branch gets its chosen pads; the last one gets all others.',
  },
  {
    value: 'select',
    text: 'select',
    tip: 'One position control glides across the branches.',
  },
]

/** Another kind of split. Bands and places lie beside each other, so each sounds at its own level. */
function changeSplit(mode: Split['mode']): void {
  const { node } = props
  if (node.kind !== 'split') return
  const lifted = mode === 'copies' ? [] : node.branches.filter((b) => (b.params.level ?? 0) === -6)
  doc.edit(
    'Change split type',
    together(setSplitMode(node.id, mode), ...lifted.map((b) => setParam(b.id, 'level', 0))),
  )
}
</script>

<template>
  <div
    class="flex min-h-0 flex-col p-3"
    :class="screen.enlarged ? 'enlarged' : ''"
    aria-label="Picture"
    role="group"
  >
    <ChainResponsePicture
      v-if="screen.shows !== 'own'"
      :id="node.id"
      :key="`${node.id}${screen.shows}`"
      :scope="screen.shows"
      class="min-h-0 flex-1"
    />
    <component
      :is="face.picture"
      v-else-if="effect && face"
      :id="effect.id"
      :key="effect.id"
      v-bind="face.props"
      class="min-h-0 flex-1"
    />
    <template v-else-if="node.kind === 'split'">
      <ChoiceField
        class="mb-1"
        label="Type"
        :model-value="node.mode"
        :options="splitKinds"
        @update:model-value="changeSplit"
      />
      <p class="mb-1 text-small text-second">
        {{ splitKinds.find((k) => k.value === (node as Split).mode)?.tip }}
      </p>
      <SplitPicture
        v-if="node.mode === 'bands' || node.mode === 'select'"
        :key="node.id"
        :split="node"
        class="min-h-0 flex-1"
      />
      <PadBranches
        v-else-if="node.mode === 'pads' && selection.track"
        :key="`${node.id} pads`"
        :split="node"
        :track="selection.track"
      />
      <BranchesPicture v-else :key="`${node.id} branches`" :split="node" class="min-h-0 flex-1" />
    </template>
    <component :is="face.below" v-if="effect && face?.below" :effect="effect" />
    <LoopNote v-if="node.kind === 'loop-back'" :id="node.id" :key="node.id" />
    <p v-else-if="node.kind !== 'split' && innerLists(node).length" class="text-second">
      The effects inside share one on/off switch and one wet level.
    </p>
    <div
      class="mt-1 flex gap-3 border-t border-dotted border-line pt-1 text-small text-second"
      role="group"
      aria-label="Response of"
    >
      <span>Response of</span>
      <button
        v-for="k in pictureOf"
        :key="k.value"
        :class="screen.shows === k.value ? 'border-b-2 border-magenta font-semibold text-ink' : ''"
        :aria-pressed="screen.shows === k.value"
        @click="screen.shows = k.value"
      >
        {{ k.text }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.enlarged {
  position: absolute;
  inset: 0;
  z-index: 35;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
</style>
