<script setup lang="ts">
import { ownerName, paramName, pathsOf } from '@oleaje/core/project/targets'
import { type Owner, ownerId, ownersIn } from '@oleaje/core/project/walk'
import { computed } from 'vue'
import { actions } from '../../commands/actions'
import { rankFound } from '../../composables/find-rank'
import { useSearchList } from '../../composables/useSearchList'
import { useSession } from '../../composables/useSession'
import { type Found, addableGroups, byGroup, useAddable } from './use-addable'

/** One search field for every action, effect, preset, track and control. */
const session = useSession()
const { doc, selection, screen } = session
const { parts, presets, kept, again } = useAddable()
const groupOrder = [...addableGroups, 'Actions', 'Tracks', 'Controls']

const results = useSearchList<Found>(
  (query) => {
    const things = [...parts, ...kept.value, ...presets]
    return query.trim() === ''
      ? byGroup([...again.value, ...things, ...acts.value], groupOrder)
      : // an effect comes before its presets where both fit as well
        rankFound(query, [...things, ...acts.value, ...places.value])
  },
  { choose },
)
const { query } = results
const acts = computed<Found[]>(() =>
  actions(session).map((a) => ({
    id: a.name,
    name: a.name,
    words: [],
    tip: a.keys,
    glyph: 'action',
    group: 'Actions',
    run: () => a.run(),
  })),
)
/** Tracks, and every control of the track that is selected: where the hand or the keys can go. */
const places = computed<Found[]>(() => {
  const { track } = selection
  if (!track || !doc.project) return []
  const owners: Owner[] = [
    ...(track.source ? [{ kind: 'source', source: track.source, track } as const] : []),
    ...ownersIn(track),
  ]
  const go = (id: string, name: string, tip: string, group: string, run: () => void): Found => ({
    id,
    name,
    words: [],
    tip,
    glyph: 'action',
    group,
    run,
  })
  return [
    ...doc.project.tracks.map((t) =>
      go(`track ${t.id}`, t.name, 'to this track', 'Tracks', () => selection.selectTrack(t.id)),
    ),
    ...owners.flatMap((owner) =>
      pathsOf(owner).map((path) => {
        const id = ownerId(owner)
        return go(
          `gauge ${id}.${path}`,
          `${paramName(owner, path)}, ${ownerName(owner)}`,
          'to this control',
          'Controls',
          () => void session.views.showGauge(id, path),
        )
      }),
    ),
  ]
})
function choose(f: Found): void {
  screen.dialog = ''
  // what is added still needs to know where
  f.run('after')
  screen.addSpot = null
}
function close(): void {
  screen.dialog = ''
  screen.addSpot = null
}
</script>

<template>
  <BaseDialog title="Find" wide @close="close">
    <input
      v-model="query"
      v-bind="results.field.value"
      class="field w-full"
      placeholder="Search actions, effects, presets and controls"
      aria-label="Search"
    />
    <FoundList class="mt-2 max-h-[56vh]" :results="results" columns="columns-2 gap-4" @choose="choose" />
  </BaseDialog>
</template>
