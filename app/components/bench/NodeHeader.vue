<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { removeNode, rename, unwrap } from '@oleaje/core/project/chain-edits'
import { innerLists } from '@oleaje/core/project/nodes/index'
import type { ChainNode } from '@oleaje/core/project/schema'
import { ownerName } from '@oleaje/core/project/targets'
import { resetParams, setParam } from '@oleaje/core/project/value-edits'
import { Maximize2, Minimize2 } from '@lucide/vue'
import { computed } from 'vue'
import { containers, enclose } from '../../commands/enclose'
import { useSession } from '../../composables/useSession'

/**
 * The header line of the selected effect or container: its name and presets, whether it is on, what of it is
 * monitored, and a menu of everything else.
 */
const props = defineProps<{ node: ChainNode }>()
const session = useSession()
const { doc, selection, monitoring, screen, shelf } = session
const effect = computed(() => (props.node.kind === 'effect' ? props.node : undefined))
const definition = computed(() => (effect.value ? effectDefinition(effect.value.type) : undefined))
const isOn = computed(() => (props.node.params.on ?? 1) >= 0.5)
const name = computed(() =>
  selection.track ? ownerName({ kind: 'node', node: props.node, track: selection.track }) : '',
)

const monitored = computed(() => {
  if (monitoring.upTo === props.node.id) return 'up to here'
  return monitoring.part?.node === props.node.id ? monitoring.part.what : 'all'
})
const monitors = [
  { value: 'all', text: 'All', tip: 'Plays the whole chain' },
  {
    value: 'up to here',
    text: 'Up to here',
    tip: 'Plays the chain up to this effect. Does not affect renders. (H)',
  },
  {
    value: 'wet',
    text: 'Wet',
    tip: 'Plays only the wet signal of this effect. Does not affect renders. (E)',
  },
  {
    value: 'difference',
    text: 'Difference',
    tip: 'Plays only the difference between output and input. Does not affect renders. (Shift+E)',
  },
] as const
function monitor(what: (typeof monitors)[number]['value']): void {
  const { id } = props.node
  const next = what === monitored.value ? 'all' : what
  monitoring.upTo = next === 'up to here' ? id : null
  monitoring.part = next === 'wet' || next === 'difference' ? { node: id, what: next } : null
}

const actions = computed(() => [
  [
    ...containers.map((c) => ({
      text: c.label,
      tip: c.tip,
      keys: c.keys,
      run: () => enclose(session, c.kind),
    })),
    ...(innerLists(props.node).length
      ? [
          {
            text: 'Unwrap',
            tip: 'Removes the container and keeps its effects',
            run: () => doc.edit('Unwrap', unwrap(props.node.id)),
          },
        ]
      : []),
  ],
  [
    {
      text: 'Keep on shelf…',
      tip: 'Saves this as a preset of your own',
      keys: 'Shift+F',
      run: () => {
        screen.toKeep = shelf.presetToKeep(null) ?? null
        if (screen.toKeep) screen.dialog = 'keep'
      },
    },
    ...(definition.value?.holds
      ? [
          {
            text: 'Buffer to track',
            tip: 'Saves what the buffer holds as a sound on a new track',
            run: () => void session.library.keepHeld(props.node.id, name.value),
          },
        ]
      : []),
  ],
  [
    ...(effect.value
      ? [
          {
            text: 'Reset to defaults',
            tip: 'Sets all parameters to their defaults',
            run: () => doc.edit(`Reset ${name.value}`, resetParams(props.node.id)),
          },
        ]
      : []),
    {
      text: 'Remove',
      tip: 'Removes this from the chain. Undo restores it.',
      keys: 'Delete',
      run: () => doc.edit(`Remove ${name.value}`, removeNode(props.node.id)),
    },
  ],
])
</script>

<template>
  <header class="flex h-10 shrink-0 items-center gap-2 border-b border-line px-3">
    <TextField
      class="max-w-60 min-w-17 shrink truncate bg-transparent text-heading font-semibold"
      :size="Math.max(5, name.length)"
      :value="name"
      aria-label="Name"
      :title="definition?.tip ?? 'Type a new name'"
      @change="doc.edit('Rename', rename(node.id, ($event.target as HTMLInputElement).value))"
      @keydown.stop
    />
    <LockMark :of="node.id" :name="name" />
    <PresetMenu v-if="effect" :effect="effect" />
    <button
      class="plain-button"
      :aria-pressed="isOn"
      title="Turns the effect on or off (X)"
      @click="doc.edit(isOn ? `Turn off ${name}` : `Turn on ${name}`, setParam(node.id, 'on', isOn ? 0 : 1))"
    >
      {{ isOn ? 'On' : 'Off' }}
    </button>
    <div v-if="effect" class="ml-auto flex" role="group" aria-label="Monitor">
      <button
        v-for="m in monitors"
        :key="m.value"
        class="plain-button -ml-px rounded-none px-2"
        :aria-pressed="monitored === m.value"
        :title="m.tip"
        @click="monitor(m.value)"
      >
        {{ m.text }}
      </button>
    </div>
    <button
      class="small-button"
      :class="effect ? '' : 'ml-auto'"
      :aria-pressed="screen.enlarged"
      :aria-label="screen.enlarged ? 'Restore the picture' : 'Enlarge the picture'"
      title="Enlarges the picture, or restores its size (Z)"
      @click="screen.enlarged = !screen.enlarged"
    >
      <component :is="screen.enlarged ? Minimize2 : Maximize2" :size="14" aria-hidden="true" />
    </button>
    <ActionMenu
      small
      :label="`Actions for ${name}`"
      tip="Split, group, keep, reset, remove"
      :groups="actions"
    />
  </header>
</template>
