import { type Monitor, openMonitor } from '@oleaje/core/engine/monitor'
import { findOwner } from '@oleaje/core/project/walk'
import { defineStore } from 'pinia'
import { type Ref, computed, ref, shallowRef, watch } from 'vue'
import { useDevices } from './devices'
import { useDocument } from './document'
import { useSelection } from './selection'

/** Playback and monitoring state. None of it affects renders. */
export const useMonitoring = defineStore('monitoring', () => {
  const doc = useDocument()
  const selection = useSelection()
  const devices = useDevices()
  const playing = ref(false)
  /** Beat from which Play starts; null for the start of the loop. */
  const cue = ref<number | null>(null)
  /** Play was pressed, and waits for what has to be there first. */
  const starting = ref(false)
  /** Whether Stop cuts tails instead of letting them ring out. */
  const stopCuts = ref(false)
  const soloTracks = ref<string[]>([])
  const soloBranches = ref<string[]>([])
  const hearDry = ref(false)
  const upTo = ref<string | null>(null)
  /** Effect of which only the wet signal is heard, or only what it adds. */
  const part = ref<{ node: string; what: 'wet' | 'difference' } | null>(null)
  /** Bands of an EQ heard alone. */
  const soloItems = ref<{ node: string; chosen: number[] } | null>(null)
  /** Modulator heard alone while the others stand still. */
  const alone = ref<string | null>(null)
  /** The take that is previewed. */
  const heardTake = ref('')
  const matching = ref(true)
  const matchDb = ref(0)
  /** Links and sidechains in a feedback loop, which come a block late. */
  const feedbackEdges = shallowRef<readonly string[]>([])

  const monitor = computed<Monitor>(() => {
    const id = selection.track?.id
    if (!id) return openMonitor
    return {
      soloTracks: [...soloTracks.value],
      unheardTrack: devices.unheardInput,
      soloBranches: [...soloBranches.value],
      dryTrack: hearDry.value ? id : null,
      upTo: upTo.value,
      part: part.value && { ...part.value },
      items: soloItems.value && { node: soloItems.value.node, chosen: [...soloItems.value.chosen] },
      match: matching.value && matchDb.value !== 0 ? { track: id, gain: 10 ** (matchDb.value / 20) } : null,
      alone: alone.value,
      probe: { track: id, modulator: selection.traced },
    }
  })

  // a measurement of one track does not hold for the next
  watch(
    () => selection.turns,
    () => {
      hearDry.value = false
      upTo.value = part.value = soloItems.value = alone.value = null
    },
    { flush: 'sync' },
  )

  /**
   * Ways of listening end with what they are about: something removed while it is heard alone must not leave
   * silence behind.
   */
  function forgetGone(): void {
    const isThere = (id: string): boolean => !!doc.project && findOwner(doc.project, id) !== undefined
    if (!soloTracks.value.every(isThere)) soloTracks.value = soloTracks.value.filter(isThere)
    if (!soloBranches.value.every(isThere)) soloBranches.value = soloBranches.value.filter(isThere)
    if (upTo.value && !isThere(upTo.value)) upTo.value = null
    if (part.value && !isThere(part.value.node)) part.value = null
    if (soloItems.value && !isThere(soloItems.value.node)) soloItems.value = null
    if (alone.value && !isThere(alone.value)) alone.value = null
  }
  watch(() => doc.project, forgetGone, { flush: 'sync' })

  /** Another project is open: it does not play. A Play that waits for the first one goes on waiting. */
  function clear(): void {
    playing.value = false
    cue.value = null
    soloTracks.value = []
    soloBranches.value = []
  }

  const toggleIn = (list: Ref<string[]>, id: string): void => {
    list.value = list.value.includes(id) ? list.value.filter((x) => x !== id) : [...list.value, id]
  }

  return {
    playing,
    starting,
    stopCuts,
    soloTracks,
    soloBranches,
    hearDry,
    upTo,
    part,
    soloItems,
    alone,
    heardTake,
    cue,
    matching,
    matchDb,
    feedbackEdges,
    monitor,
    clear,
    hearPart: (node: string, what: 'wet' | 'difference') => {
      part.value = part.value?.node === node && part.value.what === what ? null : { node, what }
    },
    hearAll: () => {
      upTo.value = part.value = soloItems.value = null
      soloBranches.value = []
      soloTracks.value = []
      hearDry.value = false
    },
    toggleSoloItem: (node: string, item: number) => {
      const before = soloItems.value?.node === node ? soloItems.value.chosen : []
      const chosen = before.includes(item) ? before.filter((x) => x !== item) : [...before, item]
      soloItems.value = chosen.length ? { node, chosen } : null
    },
    toggleSoloTrack: (id: string) => toggleIn(soloTracks, id),
    toggleSoloBranch: (id: string) => toggleIn(soloBranches, id),
  }
})
