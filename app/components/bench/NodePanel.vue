<script setup lang="ts">
import { together } from '@oleaje/core/project/edit'
import { effectDefinition } from '@oleaje/core/effects/index'
import { addBranch, groupAround, loopBackAround, removeBranch, removeNode, rename, setSidechain, setSplitMode, splitAround, unwrap } from '@oleaje/core/project/chain-edits'
import { resetParams, setParam, takePreset } from '@oleaje/core/project/value-edits'
import { newBranch } from '@oleaje/core/project/new'
import type { Split } from '@oleaje/core/project/schema'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { kindOf } from '@oleaje/core/project/nodes/index'
import { splitGauges } from '@oleaje/core/project/nodes/split'
import { ownerName } from '@oleaje/core/project/targets'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import ChainResponsePicture from '../pictures/ChainResponsePicture.vue'
import { effectFace } from '../pictures/index'

/** The selected effect or container: its picture on the left, its gauges on the right. */
const session = useSession()
const { doc, bench } = session
const node = computed(() => (bench.selection?.kind === 'node' ? bench.selection.node : undefined))
const effect = computed(() => (node.value?.kind === 'effect' ? node.value : undefined))
const definition = computed(() => (effect.value ? effectDefinition(effect.value.type) : undefined))
const face = computed(() => (effect.value ? effectFace(effect.value.type) : undefined))
const isEmpty = computed(() => doc.project?.tracks.every((t) => t.kind === 'mix') ?? false)
const isOn = computed(() => (node.value?.params.on ?? 1) >= 0.5)
const gauges = computed(() => (definition.value ? [...Object.keys(definition.value.params), ...Object.keys(commonParams).filter((k) => k !== 'on')] : node.value && 'nodes' in node.value ? Object.keys(kindOf(node.value).params(node.value) ?? {}).filter((k) => k !== 'on') : []))
const others = computed(() => (doc.project?.tracks ?? []).filter((t) => t.kind === 'track' && t.id !== bench.track?.id))
const hand = computed(() => doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === bench.inHand))

const presets = computed(() => definition.value?.presets ?? [])
function choosePreset(menu: HTMLSelectElement): void {
  const preset = presets.value.find((p) => p.name === menu.value)
  menu.value = ''
  if (preset && effect.value) doc.edit(`Preset ${preset.name}`, takePreset(effect.value.id, preset))
}

const splitKinds: Record<Split['mode'], { name: string, tip: string }> = {
  'copies': { name: 'copies', tip: 'Each branch gets a copy of the sound; where they merge, they are added up.' },
  'bands': { name: 'bands', tip: 'Each branch gets the sound between two crossovers; all bands together are flat.' },
  'mid-side': { name: 'mid/side', tip: 'The first branch gets the middle, the second the sides.' },
  'left-right': { name: 'left/right', tip: 'The first branch gets the left channel, the second the right.' },
  'select': { name: 'select', tip: 'One position glides across the branches; each has its own place along it.' },
}

/** Another kind of split; branches named by hand keep their names, those that say what they hold say it anew. */
function changeSplit(mode: Split['mode']): void {
  const n = node.value
  if (n?.kind !== 'split') return
  // bands and places lie beside each other, so each sounds at its own level
  const lifted = mode === 'copies' ? [] : n.branches.filter((b) => (b.params.level ?? 0) === -6)
  doc.edit('Change kind of split', together(setSplitMode(n.id, mode), ...lifted.map((b) => setParam(b.id, 'level', 0))))
}

function setSide(value: string): void {
  if (!node.value) return
  const [track, point] = value.split(':')
  doc.edit('Set sidechain', setSidechain(node.value.id, track ? { track, point: point === 'after' ? 'after' : 'before' } : null))
}
</script>

<template>
  <section class="flex h-full min-h-0 flex-col bg-sheet" aria-label="Selected effect" data-region="effect">
    <div v-if="bench.selected.length > 1" class="flex items-center gap-2 border-b border-line px-3 py-2">
      <span>{{ bench.selected.length }} selected</span>
      <button class="plain-button" @click="doc.edit('Split around', splitAround(bench.selected))">Split around</button>
      <button class="plain-button" @click="doc.edit('Group', groupAround(bench.selected))">Group</button>
      <button class="plain-button" title="What comes out of them goes in again (Y)" @click="doc.edit('Loop-back', loopBackAround(bench.selected))">Loop-back</button>
    </div>
    <div v-if="isEmpty" class="min-h-0 overflow-y-auto p-6">
      <h2 class="water-name mb-1 text-[20px]">An empty harbour.</h2>
      <p class="mb-3 text-second">Three ways to begin: a shipped sound (listen, then take it), a file of your own, or what comes in.</p>
      <FirstTrack class="max-w-[560px]" />
    </div>
    <div v-else-if="!node" class="p-6 text-second">
      <p class="water-name text-[18px]">Nothing is selected.</p>
      <p>Choose an effect on the chart, or press <b>A</b> to add one. Drop a sound file anywhere to bring it in as a track.</p>
    </div>
    <div v-else class="grid min-h-0 flex-1" style="grid-template-columns: minmax(260px, 46%) 1fr">
      <div class="flex min-h-0 flex-col border-r border-line p-3">
        <header class="mb-2 flex items-center gap-2">
          <TextField class="min-w-0 flex-1 bg-transparent text-[18px] font-semibold" :value="ownerName(bench.selection!)" aria-label="Name" @change="doc.edit('Rename', rename(node.id, ($event.target as HTMLInputElement).value))" @keydown.stop />
          <button class="plain-button" :aria-pressed="isOn" title="Switches off and on (X)" @click="doc.edit(isOn ? 'Switch off' : 'Switch on', setParam(node.id, 'on', isOn ? 0 : 1))">{{ isOn ? 'On' : 'Off' }}</button>
          <button v-if="effect" class="plain-button" :aria-pressed="bench.upTo === node.id" title="Hears only what comes before, and this (H). Not part of a render" @click="bench.upTo = bench.upTo === node.id ? null : node.id">Up to here</button>
          <button v-if="effect" class="plain-button" :aria-pressed="bench.part?.node === node.id && bench.part.what === 'wet'" title="Hears its wet part alone (E). Not part of a render" @click="bench.hearPart(node.id, 'wet')">Wet</button>
          <button v-if="effect" class="plain-button" :aria-pressed="bench.part?.node === node.id && bench.part.what === 'difference'" title="Hears what it adds: its output without what goes in (Shift+E). Not part of a render" @click="bench.hearPart(node.id, 'difference')">Added</button>
        </header>
        <ChainResponsePicture v-if="bench.shows !== 'own'" :id="node.id" :key="`${node.id}${bench.shows}`" :scope="bench.shows" class="min-h-0 flex-1" />
        <component :is="face.picture" v-else-if="effect && face" :id="effect.id" :key="effect.id" v-bind="face.props" class="min-h-0 flex-1" />
        <template v-else-if="node.kind === 'split'">
          <label class="mb-2 flex items-center gap-2">Kind
            <select class="field" :value="node.mode" @change="changeSplit(($event.target as HTMLSelectElement).value as Split['mode'])">
              <option v-for="(text, k) in splitKinds" :key="k" :value="k">{{ text.name }}</option>
            </select>
          </label>
          <p class="mb-2 text-second">{{ splitKinds[node.mode].tip }}</p>
          <SplitPicture :key="node.id" :split="node" class="min-h-0 flex-1" />
        </template>
        <component :is="face.below" v-if="effect && face?.below" :effect="effect" />
        <LoopNote v-if="node.kind === 'loop-back'" :id="node.id" :key="node.id" />
        <p v-else-if="'nodes' in node" class="text-second">What is inside is switched and mixed together.</p>
        <div class="mt-1 flex gap-3 border-t border-dotted border-line pt-1 text-[13px] text-second" role="group" aria-label="Picture of">
          picture of
          <button v-for="(text, k) in { 'own': 'this', 'branch': 'its branch', 'up to here': 'the chain up to here' } as const" :key="k" :class="bench.shows === k ? 'border-b-2 border-magenta font-semibold text-ink' : ''" :aria-pressed="bench.shows === k" @click="bench.shows = k">{{ text }}</button>
        </div>
        <footer class="mt-2 flex flex-wrap gap-2">
          <button class="plain-button" title="Two branches around it: one through it, one straight, both at −6 dB" @click="doc.edit('Split around', splitAround([node.id]))">Split around</button>
          <button class="plain-button" title="What comes out of it goes in again, through a delay (Y)" @click="doc.edit('Loop-back', loopBackAround([node.id]))">Loop-back</button>
          <button v-if="node.kind !== 'effect'" class="plain-button" title="Leaves what is inside" @click="doc.edit('Unwrap', unwrap(node.id))">Unwrap</button>
          <select v-if="effect && presets.length" class="field max-w-[92px]" aria-label="Preset" title="Sets the effect up for something; undo brings back what was" :value="''" @change="choosePreset($event.target as HTMLSelectElement)">
            <option value="">presets</option><option v-for="p in presets" :key="p.name" :value="p.name">{{ p.name }}</option>
          </select>
          <button v-if="effect && definition?.holds" class="plain-button" title="What its buffer holds now becomes a sound of the project, on a track of its own" @click="session.library.keepHeld(effect.id, ownerName(bench.selection!))">Keep what it holds</button>
          <button v-if="effect" class="plain-button" @click="doc.edit('Reset', resetParams(node.id))">Defaults</button>
          <button class="plain-button" title="Backspace on the chart" @click="doc.edit(`Remove ${ownerName(bench.selection!)}`, removeNode(node.id))">Remove</button>
        </footer>
      </div>
      <div class="min-h-0 overflow-y-auto px-3 py-2">
        <p class="mb-1 min-h-[20px] text-[13px] text-second">
          <template v-if="hand"><Badge :letter="hand.letter" :hue="hand.hue" small /> <b>{{ hand.name }}</b> in hand: press where its lowest should be, release at its highest. Esc lets go.</template>
          <template v-else>drag to set · Shift for fine · Enter to type · M to link</template>
        </p>
        <LaneEditor v-for="lane in Object.keys(definition?.lanes ?? {})" :key="`${node.id}${lane}`" :owner="node.id" :lane="lane" />
        <GaugeRow v-for="g in gauges" :key="`${node.id}.${g}`" :owner="node.id" :param="g" />
        <label v-if="definition?.sidechain" class="flex items-center gap-2 py-2">Sidechain
          <select class="field" :value="effect?.sidechain ? `${effect.sidechain.track}:${effect.sidechain.point}` : ''" @change="setSide(($event.target as HTMLSelectElement).value)">
            <option value="">its own input</option>
            <template v-for="t in others" :key="t.id"><option :value="`${t.id}:before`">{{ t.name }}, before its chain</option><option :value="`${t.id}:after`">{{ t.name }}, after its chain</option></template>
          </select>
        </label>
        <template v-if="node.kind === 'split'">
          <GaugeRow v-for="g in splitGauges(node.mode, node.branches.length)" :key="g" :owner="node.id" :param="g" />
          <article v-for="b in node.branches" :key="b.id" class="border-b border-line py-2">
            <header class="flex items-center gap-2">
              <TextField class="water-name min-w-0 flex-1 bg-transparent text-[16px]" :value="b.name" aria-label="Name of the branch" @change="doc.edit('Rename branch', rename(b.id, ($event.target as HTMLInputElement).value))" @keydown.stop />
              <button class="small-button" title="Inverts the polarity" :aria-pressed="(b.params.polarity ?? 1) < 0" @click="doc.edit('Invert polarity', setParam(b.id, 'polarity', (b.params.polarity ?? 1) < 0 ? 1 : -1))">±</button>
              <button class="small-button" :aria-pressed="(b.params.mute ?? 0) >= 0.5" :title="`Mute ${b.name}`" @click="doc.edit(`Mute ${b.name}`, setParam(b.id, 'mute', (b.params.mute ?? 0) >= 0.5 ? 0 : 1))">M</button>
              <button class="small-button" :aria-pressed="bench.soloBranches.includes(b.id)" :title="`Hear ${b.name} alone`" @click="bench.toggleSoloBranch(b.id)">S</button>
              <button v-if="node.branches.length > 1" class="small-button" :title="`Remove ${b.name}`" @click="doc.edit(`Remove ${b.name}`, removeBranch(b.id))">×</button>
            </header>
            <GaugeRow :owner="b.id" param="level" /><GaugeRow :owner="b.id" param="pan" />
          </article>
          <button v-if="node.branches.length < 8" class="plain-button mt-2" @click="doc.edit('Add branch', addBranch(node.id, newBranch(`branch ${node.branches.length + 1}`, node.mode === 'copies' ? -6 : 0)))">Add branch</button>
        </template>
      </div>
    </div>
  </section>
</template>
