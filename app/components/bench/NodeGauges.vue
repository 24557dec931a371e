<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { addBranch, removeBranch, rename, setSidechain } from '@oleaje/core/project/chain-edits'
import { newBranch } from '@oleaje/core/project/new'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { kindOf } from '@oleaje/core/project/nodes/index'
import type { ChainNode, Split } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { computed } from 'vue'
import { pairGauges } from '../../composables/time-pair'
import { useSession } from '../../composables/useSession'

/** All gauges of the selected effect or container: of itself, its lanes, its branches. */
const props = defineProps<{ node: ChainNode }>()
const { doc, selection, monitoring } = useSession()
const effect = computed(() => (props.node.kind === 'effect' ? props.node : undefined))
const definition = computed(() => (effect.value ? effectDefinition(effect.value.type) : undefined))
const hand = computed(() =>
  doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === selection.inHand),
)
const isMoved = (param: string): boolean =>
  doc.project?.links.some(
    (l) => l.target.owner === props.node.id && l.target.param === param && !l.target.lane,
  ) ?? false

const gauges = computed<ReturnType<typeof pairGauges>>(() => {
  const { node } = props
  if (definition.value) {
    const names = [
      ...Object.keys(definition.value.params),
      ...Object.keys(commonParams).filter((k) => k !== 'on'),
      'on',
    ]
    return pairGauges(
      definition.value.params,
      names,
      isMoved,
      (p) => node.params[p] ?? definition.value?.params[p]?.default ?? 0,
    )
  }
  const kind = kindOf(node)
  const specs = kind.params(node)
  return pairGauges(
    specs,
    kind.gauges?.(node) ?? Object.keys(specs ?? {}),
    isMoved,
    (p) => node.params[p] ?? specs?.[p]?.default ?? 0,
  )
})

const add = (split: Split): void =>
  doc.edit(
    'Add branch',
    addBranch(split.id, newBranch(`branch ${split.branches.length + 1}`, split.mode === 'copies' ? -6 : 0)),
  )

const sides = computed(() => [
  { value: '', text: 'its own input' },
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind === 'track' && t.id !== selection.track?.id)
    .flatMap((t) => [
      { value: `${t.id}:before`, text: `${t.name}, before its chain` },
      { value: `${t.id}:after`, text: `${t.name}, after its chain` },
    ]),
])
function setSide(value: string): void {
  const [track, point] = value.split(':')
  doc.edit(
    'Set sidechain',
    setSidechain(props.node.id, track ? { track, point: point === 'after' ? 'after' : 'before' } : null),
  )
}
const side = computed(() =>
  effect.value?.sidechain ? `${effect.value.sidechain.track}:${effect.value.sidechain.point}` : '',
)
</script>

<template>
  <div class="min-h-0 overflow-y-auto px-3 py-2">
    <p class="mb-1 min-h-5 text-small text-second">
      <template v-if="hand">
        <Badge :letter="hand.letter" :hue="hand.hue" small /> <b>{{ hand.name }}</b> in hand: press where its
        lowest should be, release at its highest. Esc lets go.
      </template>
      <template v-else>drag to set · Shift for fine · Enter to type · M to link</template>
    </p>
    <LaneEditor
      v-for="lane in Object.keys(definition?.lanes ?? {})"
      :key="`${node.id}${lane}`"
      :owner="node.id"
      :lane="lane"
    />
    <GaugeRow
      v-for="g in gauges"
      :key="`${node.id}.${g.param}`"
      :owner="node.id"
      :param="g.param"
      :pair="g.pair"
    />
    <div v-if="definition?.sidechain" class="py-2">
      <ChoiceField
        label="Sidechain"
        tip="What it listens to"
        :model-value="side"
        :options="sides"
        @update:model-value="setSide"
      />
    </div>
    <template v-if="node.kind === 'split'">
      <article v-for="b in node.branches" :key="b.id" class="border-b border-line py-2" :data-branch="b.id">
        <header class="flex items-center gap-2">
          <TextField
            class="water-name min-w-0 flex-1 bg-transparent text-large"
            :value="b.name"
            aria-label="Name of the branch"
            @change="doc.edit('Rename branch', rename(b.id, ($event.target as HTMLInputElement).value))"
            @keydown.stop
          />
          <button
            class="small-button"
            title="Inverts the polarity"
            :aria-label="`Invert the polarity of ${b.name}`"
            :aria-pressed="(b.params.polarity ?? 1) < 0"
            @click="
              doc.edit('Invert polarity', setParam(b.id, 'polarity', (b.params.polarity ?? 1) < 0 ? 1 : -1))
            "
          >
            ±
          </button>
          <button
            class="small-button"
            :aria-pressed="(b.params.mute ?? 0) >= 0.5"
            :title="`Mute ${b.name}`"
            :aria-label="`Mute ${b.name}`"
            @click="doc.edit(`Mute ${b.name}`, setParam(b.id, 'mute', (b.params.mute ?? 0) >= 0.5 ? 0 : 1))"
          >
            M
          </button>
          <button
            class="small-button"
            :aria-pressed="monitoring.soloBranches.includes(b.id)"
            :title="`Hear ${b.name} alone`"
            :aria-label="`Hear ${b.name} alone`"
            @click="monitoring.toggleSoloBranch(b.id)"
          >
            S
          </button>
          <button
            v-if="node.branches.length > 1"
            class="small-button"
            :title="`Remove ${b.name}`"
            :aria-label="`Remove ${b.name}`"
            @click="doc.edit(`Remove ${b.name}`, removeBranch(b.id))"
          >
            ×
          </button>
        </header>
        <GaugeRow v-for="k in ['level', 'pan', 'polarity']" :key="k" :owner="b.id" :param="k" />
        <RouteControls :from="b.id" branch />
      </article>
      <button
        v-if="node.branches.length < 8"
        class="plain-button mt-2"
        title="Another branch, at the end"
        @click="add(node)"
      >
        Add branch
      </button>
    </template>
  </div>
</template>
