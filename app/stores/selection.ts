import type { Track } from '@oleaje/core/project/schema'
import { findOwner, trackOf } from '@oleaje/core/project/walk'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { useDocument } from './document'

/** The selection and the modulator that is being linked. None of it is part of the document. */
export const useSelection = defineStore('selection', () => {
  const doc = useDocument()
  const trackId = ref('')
  /** Times that a track was selected: ways of listening to the one before end with it. */
  const turns = ref(0)
  const selected = ref<string[]>([])
  const openModulators = ref<string[]>([])
  /** Modulator taken in hand: every gauge opens for it. */
  const inHand = ref<string | null>(null)
  /** Output of the modulator in hand that links are made from; its first where it is not said. */
  const handOutput = ref<string | null>(null)
  /** Modulator being carried by the mouse. */
  const carried = ref<string | null>(null)
  /** Modulator whose links wait to be pointed at the gauge that is pressed next. */
  const repointing = ref<string | null>(null)
  /** Macro that learns, and which of its ends: gauges that are set now are set for that end. */
  const learning = ref<{ macro: string; end: 'from' | 'to' } | null>(null)
  /** Gauges marked with Shift, as `owner.param`. */
  const marked = ref<string[]>([])
  /** Modulator or gauge pointed at, to light what belongs together. */
  const pointed = ref<{ modulator?: string; target?: string } | null>(null)
  /** Modulator whose trace the scope and the wave lane show. */
  const traced = ref<string | null>(null)
  /** Item of a lane whose gauges are shown: a band, a string. */
  const shownItem = ref(0)

  const track = computed<Track | undefined>(() => {
    const p = doc.project
    return p ? (trackOf(p, trackId.value) ?? p.tracks[0]) : undefined
  })
  const selectedId = computed(() => selected.value[selected.value.length - 1] ?? null)
  /** The selected object in the project. */
  const owner = computed(() =>
    doc.project && selectedId.value ? findOwner(doc.project, selectedId.value) : undefined,
  )

  function selectTrack(id: string): void {
    trackId.value = id
    turns.value++
    const t = doc.project && trackOf(doc.project, id)
    const chain = t && (t.heard === 'b' && t.b ? t.b : t.a)
    const first = chain?.nodes[0]?.id ?? t?.source?.id
    selected.value = first ? [first] : []
    marked.value = []
    learning.value = null
    traced.value = t?.modulators[0]?.id ?? null
  }

  function select(id: string, more = false): void {
    if (id !== selectedId.value) {
      shownItem.value = 0
      // marks that are not in sight any more would be linked unseen
      marked.value = []
    }
    if (!more) selected.value = [id]
    else
      selected.value = selected.value.includes(id)
        ? selected.value.filter((x) => x !== id)
        : [...selected.value, id]
  }

  /** Another project is open: the hand is empty. */
  function clear(): void {
    openModulators.value = []
    inHand.value = handOutput.value = repointing.value = null
  }

  /** Drops references to removed things. */
  function forgetGone(): void {
    const isThere = (id: string): boolean => !!doc.project && findOwner(doc.project, id) !== undefined
    if (learning.value && !isThere(learning.value.macro)) learning.value = null
    if (inHand.value && !isThere(inHand.value)) inHand.value = null
    if (selected.value.length > 0 && !selected.value.every(isThere))
      selected.value = selected.value.filter(isThere)
  }
  watch(() => doc.project, forgetGone, { flush: 'sync' })

  return {
    trackId,
    turns,
    track,
    selected,
    selectedId,
    owner,
    openModulators,
    inHand,
    handOutput,
    carried,
    repointing,
    learning,
    marked,
    pointed,
    traced,
    shownItem,
    selectTrack,
    select,
    clear,
    toggleOpen: (id: string) => {
      const { value } = openModulators
      openModulators.value = value.includes(id) ? value.filter((x) => x !== id) : [...value, id]
    },
  }
})
