<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { removeNode, rename, setSplitMode, unwrap } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { innerLists } from '@oleaje/core/project/nodes/index'
import type { ChainNode, Split } from '@oleaje/core/project/schema'
import { ownerName } from '@oleaje/core/project/targets'
import { resetParams, setParam, takePreset } from '@oleaje/core/project/value-edits'
import { Menu, MenuButton, MenuItem, MenuItems } from '../ui/parts/menu'
import { Maximize2, Minimize2 } from '@lucide/vue'
import { computed } from 'vue'
import { containers, enclose } from '../../commands/enclose'
import { useSession } from '../../composables/useSession'
import ChainResponsePicture from '../pictures/ChainResponsePicture.vue'
import { effectFace } from '../pictures/index'
import { pictureOf } from '../../stores/picture-choices'

/** The picture of the selected effect or container, how it is heard, and what can be done with it. */
const props = defineProps<{ node: ChainNode }>()
const session = useSession()
const { doc, selection, monitoring, screen } = session
const effect = computed(() => (props.node.kind === 'effect' ? props.node : undefined))
const definition = computed(() => (effect.value ? effectDefinition(effect.value.type) : undefined))
const face = computed(() => (effect.value ? effectFace(effect.value.type) : undefined))
const isOn = computed(() => (props.node.params.on ?? 1) >= 0.5)
const name = computed(() =>
  selection.track ? ownerName({ kind: 'node', node: props.node, track: selection.track }) : '',
)
const presets = computed(() => definition.value?.presets ?? [])

const splitKinds: readonly { value: Split['mode']; text: string; tip: string }[] = [
  {
    value: 'copies',
    text: 'copies',
    tip: 'Each branch gets a copy of the sound; where they merge, they are added up.',
  },
  {
    value: 'bands',
    text: 'bands',
    tip: 'Each branch gets the sound between two crossovers; all bands together are flat.',
  },
  { value: 'mid-side', text: 'mid/side', tip: 'The first branch gets the middle, the second the sides.' },
  {
    value: 'left-right',
    text: 'left/right',
    tip: 'The first branch gets the left channel, the second the right.',
  },
  {
    value: 'pads',
    text: 'pads',
    tip: 'At the head of a kit’s chain, each branch gets the pads that are chosen for it; the last one all others.',
  },
  {
    value: 'select',
    text: 'select',
    tip: 'One position glides across the branches; each has its own place along it.',
  },
]

/** Another kind of split. Bands and places lie beside each other, so each sounds at its own level. */
function changeSplit(mode: Split['mode']): void {
  const { node } = props
  if (node.kind !== 'split') return
  const lifted = mode === 'copies' ? [] : node.branches.filter((b) => (b.params.level ?? 0) === -6)
  doc.edit(
    'Change kind of split',
    together(setSplitMode(node.id, mode), ...lifted.map((b) => setParam(b.id, 'level', 0))),
  )
}

const isPart = (what: 'wet' | 'difference'): boolean =>
  monitoring.part?.node === props.node.id && monitoring.part.what === what
</script>

<template>
  <div
    class="flex min-h-0 flex-col p-3"
    :class="screen.enlarged ? 'enlarged' : ''"
    aria-label="Picture"
    role="group"
  >
    <header class="mb-2 flex flex-wrap items-center gap-1">
      <TextField
        class="min-w-17.5 flex-1 bg-transparent text-heading font-semibold"
        :value="name"
        aria-label="Name"
        @change="doc.edit('Rename', rename(node.id, ($event.target as HTMLInputElement).value))"
        @keydown.stop
      />
      <button
        class="plain-button"
        :aria-pressed="isOn"
        title="Switches off and on (X)"
        @click="doc.edit(isOn ? 'Switch off' : 'Switch on', setParam(node.id, 'on', isOn ? 0 : 1))"
      >
        {{ isOn ? 'On' : 'Off' }}
      </button>
      <template v-if="effect">
        <button
          class="plain-button"
          :aria-pressed="monitoring.upTo === node.id"
          title="Hears only what comes before, and this (H). Not part of a render"
          @click="monitoring.upTo = monitoring.upTo === node.id ? null : node.id"
        >
          Up to here
        </button>
        <button
          class="plain-button"
          :aria-pressed="isPart('wet')"
          title="Hears its wet part alone (E). Not part of a render"
          @click="monitoring.hearPart(node.id, 'wet')"
        >
          Wet
        </button>
        <button
          class="plain-button"
          :aria-pressed="isPart('difference')"
          title="Hears what it adds: its output without what goes in (Shift+E). Not part of a render"
          @click="monitoring.hearPart(node.id, 'difference')"
        >
          Added
        </button>
      </template>
      <button
        class="small-button"
        :aria-pressed="screen.enlarged"
        :aria-label="screen.enlarged ? 'Picture as large as before' : 'Enlarge the picture'"
        title="Enlarges the picture over the middle, and back (Z)"
        @click="screen.enlarged = !screen.enlarged"
      >
        <component :is="screen.enlarged ? Minimize2 : Maximize2" :size="14" aria-hidden="true" />
      </button>
    </header>
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
        label="Kind"
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
      What is inside is switched and mixed together.
    </p>
    <div
      class="mt-1 flex gap-3 border-t border-dotted border-line pt-1 text-small text-second"
      role="group"
      aria-label="Picture of"
    >
      picture of
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
    <footer class="mt-2 flex flex-wrap gap-1">
      <button
        v-for="c in containers"
        :key="c.kind"
        class="plain-button"
        :title="c.tip"
        @click="enclose(session, c.kind)"
      >
        {{ c.label }}
      </button>
      <button
        v-if="innerLists(node).length"
        class="plain-button"
        title="Leaves what is inside"
        @click="doc.edit('Unwrap', unwrap(node.id))"
      >
        Unwrap
      </button>
      <Menu v-if="effect && presets.length" as="div" class="relative">
        <MenuButton class="plain-button" title="Sets the effect up for something; undo brings back what was"
          >Presets</MenuButton
        >
        <MenuItems
          class="absolute bottom-full left-0 z-50 mb-1 max-h-75 overflow-y-auto border border-ink bg-sheet py-1 focus:outline-none"
        >
          <MenuItem v-for="p in presets" :key="p.name" v-slot="{ active }">
            <button
              class="block w-full px-3 py-0.5 text-left whitespace-nowrap"
              :class="active ? 'bg-water' : ''"
              @click="doc.edit(`Preset ${p.name}`, takePreset(node.id, p))"
            >
              {{ p.name }}
            </button>
          </MenuItem>
        </MenuItems>
      </Menu>
      <button
        v-if="effect && definition?.holds"
        class="plain-button"
        title="What its buffer holds now becomes a sound of the project, on a track of its own"
        @click="session.library.keepHeld(node.id, name)"
      >
        Keep what it holds
      </button>
      <button
        v-if="effect"
        class="plain-button"
        title="All of its gauges back to where a new one stands"
        @click="doc.edit('Reset', resetParams(node.id))"
      >
        Defaults
      </button>
      <button
        class="plain-button"
        title="Delete on the chart"
        @click="doc.edit(`Remove ${name}`, removeNode(node.id))"
      >
        Remove
      </button>
    </footer>
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
