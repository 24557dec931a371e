<script setup lang="ts">
import { removeBranch, rename } from '@oleaje/core/project/chain-edits'
import type { Split } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { useSession } from '../../composables/useSession'

/** The branches of a split: name, polarity, mute, solo, gauges and sends of each. */
defineProps<{ split: Split }>()
const { doc, monitoring } = useSession()
</script>

<template>
  <ul aria-label="Branches">
    <li v-for="b in split.branches" :key="b.id" class="border-b border-line py-2" :data-branch="b.id">
      <header class="flex items-center gap-2">
        <TextField
          class="water-name min-w-0 flex-1 bg-transparent text-large"
          :value="b.name"
          aria-label="Branch name"
          @change="doc.edit('Rename branch', rename(b.id, ($event.target as HTMLInputElement).value))"
          @keydown.stop
        />
        <button
          class="small-button"
          title="Inverts the polarity of the branch"
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
          :title="`Mutes ${b.name}`"
          :aria-label="`Mute ${b.name}`"
          @click="doc.edit(`Mute ${b.name}`, setParam(b.id, 'mute', (b.params.mute ?? 0) >= 0.5 ? 0 : 1))"
        >
          M
        </button>
        <button
          class="small-button"
          :aria-pressed="monitoring.soloBranches.includes(b.id)"
          :title="`Plays only ${b.name}. Does not affect renders. (S)`"
          :aria-label="`Solo ${b.name}`"
          @click="monitoring.toggleSoloBranch(b.id)"
        >
          S
        </button>
        <button
          v-if="split.branches.length > 1"
          class="small-button"
          :title="`Removes ${b.name} and its effects`"
          :aria-label="`Remove ${b.name}`"
          @click="doc.edit(`Remove ${b.name}`, removeBranch(b.id))"
        >
          ×
        </button>
      </header>
      <GaugeRow v-for="k in ['level', 'pan', 'polarity']" :key="k" :owner="b.id" :param="k" />
      <RouteControls :from="b.id" branch />
    </li>
  </ul>
</template>
