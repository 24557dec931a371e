import { type Monitor, openMonitor } from '@oleaje/core/engine/monitor'
import type { Preset } from '@oleaje/core/project/preset'
import type { Note, Project, Track } from '@oleaje/core/project/schema'
import { findOwner, trackOf } from '@oleaje/core/project/walk'
import { usePreferredDark } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { type Buffering, buffers } from '../audio/buffering'
import type { InputDevice } from '../services/live-input'
import type { OfferedMidi } from '../services/midi-files'
import type { ListeningView } from '../components/listening/listening-views'
import { useDocument } from './document'
import { preference } from './preference'

/** So long a removal can be taken back, in ms. */
const UNDO_MS = 12_000

/** What the Bench shows and how one listens: nothing of this is part of the document. */
export const useBench = defineStore('bench', () => {
  const doc = useDocument()
  const trackId = ref('')
  const selected = ref<string[]>([])
  const openModulators = ref<string[]>([])
  /** Modulator taken in hand: every gauge opens for it. */
  const inHand = ref<string | null>(null)
  /** Gauges marked with Shift, as `owner.param`. */
  const marked = ref<string[]>([])
  /** Modulator or gauge pointed at, to light what belongs together. */
  const pointed = ref<{ modulator?: string; target?: string } | null>(null)
  /** Modulator whose trace the scope and the wave lane show. */
  const traced = ref<string | null>(null)
  const soloTracks = ref<string[]>([])
  const soloBranches = ref<string[]>([])
  const hearDry = ref(false)
  const upTo = ref<string | null>(null)
  /** Effect of which only the wet signal is heard, or only what it adds. */
  const part = ref<{ node: string; what: 'wet' | 'difference' } | null>(null)
  /** Bands of an EQ heard alone. */
  const soloItems = ref<{ node: string; chosen: number[] } | null>(null)
  const matching = ref(true)
  const matchDb = ref(0)
  const playing = ref(false)
  /** Play was pressed, and waits for what has to be there first. */
  const starting = ref(false)
  /** Whether the output's clock stands still though sound is wanted, as without an output device. */
  const noOutput = ref(false)
  const night = preference('night', usePreferredDark().value)
  /** Whether Stop cuts what rings instead of letting it ring out. */
  const stopCuts = ref(false)
  /** How much sound is kept ready at the output. */
  const buffer = preference<Buffering>('buffer', 'short', (kept) => kept in buffers)
  /** Whether the engine works through each project unheard before it plays, so that its first seconds do not stutter. */
  const rehearses = preference('rehearses', true)
  const dialog = ref<
    '' | 'keys' | 'find' | 'add' | 'render' | 'projects' | 'macro' | 'track' | 'keep' | 'shelf' | 'midi' | 'print' | 'licences'
  >('')
  /** What is about to be kept on the shelf. */
  const toKeep = shallowRef<Preset | null>(null)
  /** Track whose sound the next one that is chosen replaces; none for a new track. */
  const replacing = ref<string | null>(null)
  /**
   * What a sound that is chosen becomes: a track that loops it, one that plays it by notes, a kit, or another pad of the kit that is open.
   */
  const takeAs = ref<'loop' | 'played' | 'kit' | 'pad'>('loop')
  /** Tracks whose notes are shown in the Timeline, and that of which a take is recorded. */
  const openLines = ref<string[]>([])
  /** Tracks whose curves and takes are folded away in the Timeline. */
  const foldedTracks = ref<string[]>([])
  const recordingNotes = ref<string | null>(null)
  /** Track that is being recorded, take that is heard by itself, and the measured way from the output to each input, in samples. */
  const recordingTrack = ref<string | null>(null)
  const heardTake = ref('')
  const roundTrips = preference<Record<string, number>>('round-trips', {})
  /** Whether the clock of a device gives the tempo, and its start and stop play. */
  const followsClock = preference('follows-clock', false)
  /** Device that sound comes out of; the usual one without. */
  const outputDevice = preference('output-device', '')
  /** Whether a bar of clicks comes before a take, and whether takes are brought to the grid. */
  const countsIn = ref(false)
  const quantisesTakes = ref(true)
  /** Notes that were copied. */
  const copiedNotes = shallowRef<readonly Note[]>([])
  /** Whether the computer's keys play notes, and from which octave up. */
  const typesNotes = ref(false)
  const typedOctave = ref(2)
  /** Track that notes go to whatever is selected; the selected one without. */
  const notesTo = ref<string | null>(null)
  /** A MIDI file whose parts wait to be given to tracks. */
  const offeredMidi = shallowRef<OfferedMidi | null>(null)
  /** What is said to who cannot see it. */
  const spoken = ref('')
  /** Something that was removed and can be brought back for a while. */
  const removed = shallowRef<{ readonly text: string; readonly undo: () => Promise<unknown>; readonly lapse: () => unknown } | null>(null)
  let lapsing: ReturnType<typeof setTimeout> | undefined

  /** Offers to take a removal back that is not in the history; after a while, or for the next one, it lapses. */
  function offerUndo(text: string, undo: () => Promise<unknown>, lapse: () => unknown = () => {}): void {
    settleRemoved(false)
    removed.value = { text, undo, lapse }
    lapsing = setTimeout(() => settleRemoved(false), UNDO_MS)
  }
  function settleRemoved(takesBack: boolean): void {
    clearTimeout(lapsing)
    const offer = removed.value
    removed.value = null
    if (offer) void (takesBack ? offer.undo() : offer.lapse())
  }

  /** A sound that is being brought in: how much of it is done, 0…1, and how to stop it. */
  const bringing = shallowRef<{ readonly name: string; readonly done: number; readonly stop: () => void } | null>(null)
  /** What is wrong where the project takes more than there is, and so is not heard whole. */
  const overBudget = ref('')
  /** Track that the Render dialog opens for; none is the mix. */
  const toPrint = ref('')
  /** Where the next effect goes; set by plus marks and A. */
  const addSpot = shallowRef<{ after: string } | { startOf: string } | null>(null)
  /** Output of the modulator in hand that links are made from; its first where it is not said. */
  const handOutput = ref<string | null>(null)
  /** Modulator heard alone while the others stand still. */
  const alone = ref<string | null>(null)
  /** Macro that learns, and which of its ends: gauges that are set now are set for that end. */
  const learning = ref<{ macro: string; end: 'from' | 'to' } | null>(null)
  /** Modulator whose links wait to be pointed at the gauge that is pressed next. */
  const repointing = ref<string | null>(null)
  /** Gauge whose ride is being recorded, as `owner.path`. */
  const recordingAutomation = ref<string | null>(null)
  /** Gauge that waits for a control of a device to be moved, and a control that waits for a gauge. */
  const controlFor = ref<string | null>(null)
  /** Real devices that can be heard, whether an open input is, and the track that is left out of the mix meanwhile. */
  const inputDevices = shallowRef<readonly InputDevice[]>([])
  const monitorsInput = preference('monitors-input', true)
  const unheardInput = ref<string | null>(null)
  /** Track whose live input is open. */
  const openInput = ref<string | null>(null)
  const deviceShown = ref(false)
  /** Item of a lane whose gauges are shown: a band, a string. */
  const shownItem = ref(0)
  /** What the listening panel shows, whether it stands still, and whether it lies over the middle. */
  const listeningView = ref<ListeningView>('spectra')
  const frozen = ref(false)
  const listeningEnlarged = ref(false)
  /** Whether the picture of what is selected lies over the whole middle. */
  const enlarged = ref(false)
  /** Time in which a snapshot is gone to, in seconds. */
  const snapshotGlide = ref(0.4)
  /** Whether lanes are shown as tables, and what of each the dice leave alone: rows and columns by `owner.lane`. */
  const laneTables = ref(true)
  const lockedRows = ref<Readonly<Record<string, readonly number[]>>>({})
  const lockedColumns = ref<Readonly<Record<string, readonly string[]>>>({})
  /** What the picture of the selected effect is of: itself, its branch, or the chain up to it. */
  const shows = ref<'own' | 'branch' | 'up to here'>('own')
  /** What the picture of a measured response shows. */
  const responseView = ref<'magnitude' | 'phase' | 'delay'>('magnitude')
  /** Link to be shown in the table, and macro whose targets are listed. */
  const shownLink = ref<string | null>(null)
  const shownMacro = ref<string | null>(null)
  /** Modulator being carried by the mouse. */
  const carried = ref<string | null>(null)
  /** Links and sidechains that go round in a circle, and so come a block late. */
  const feedbackEdges = shallowRef<readonly string[]>([])
  /** Runaway effects that the guard has cut, until acknowledged: trips seen so far by node. */
  const acknowledged = shallowRef<Record<string, number>>({})

  const track = computed<Track | undefined>(() => {
    const p = doc.project
    return p ? (trackOf(p, trackId.value) ?? p.tracks[0]) : undefined
  })
  const selectedId = computed(() => selected.value[selected.value.length - 1] ?? null)
  const selection = computed(() => (doc.project && selectedId.value ? findOwner(doc.project, selectedId.value) : undefined))

  const monitor = computed<Monitor>(() => {
    const id = track.value?.id
    if (!id) return openMonitor
    return {
      soloTracks: [...soloTracks.value],
      unheardTrack: unheardInput.value,
      soloBranches: [...soloBranches.value],
      dryTrack: hearDry.value ? id : null,
      upTo: upTo.value,
      part: part.value && { ...part.value },
      items: soloItems.value && { node: soloItems.value.node, chosen: [...soloItems.value.chosen] },
      match: matching.value && matchDb.value !== 0 ? { track: id, gain: 10 ** (matchDb.value / 20) } : null,
      alone: alone.value,
      probe: { track: id, modulator: traced.value },
    }
  })

  function selectTrack(id: string): void {
    trackId.value = id
    const t = doc.project && trackOf(doc.project, id)
    const chain = t && (t.heard === 'b' && t.b ? t.b : t.a)
    selected.value = chain?.nodes[0] ? [chain.nodes[0].id] : []
    hearDry.value = false
    upTo.value = null
    part.value = null
    soloItems.value = null
    marked.value = []
    alone.value = null
    learning.value = null
    traced.value = t?.modulators[0]?.id ?? null
  }

  /** Another project is open: nothing that was about the one before is left. */
  function turnTo(project: Project): void {
    playing.value = starting.value = false
    soloTracks.value = []
    soloBranches.value = []
    acknowledged.value = {}
    openModulators.value = []
    openLines.value = []
    foldedTracks.value = []
    recordingNotes.value = notesTo.value = null
    inHand.value = handOutput.value = recordingAutomation.value = controlFor.value = repointing.value = null
    selectTrack(project.tracks.find((t) => t.id === 'pad')?.id ?? project.tracks[0]?.id ?? '')
  }

  /** Ways of listening end with what they are about: something removed while it is heard alone must not leave silence behind. */
  function forgetGone(): void {
    const isThere = (id: string): boolean => !!doc.project && findOwner(doc.project, id) !== undefined
    if (!soloTracks.value.every(isThere)) soloTracks.value = soloTracks.value.filter(isThere)
    if (!soloBranches.value.every(isThere)) soloBranches.value = soloBranches.value.filter(isThere)
    if (upTo.value && !isThere(upTo.value)) upTo.value = null
    if (part.value && !isThere(part.value.node)) part.value = null
    if (soloItems.value && !isThere(soloItems.value.node)) soloItems.value = null
    if (alone.value && !isThere(alone.value)) alone.value = null
    if (learning.value && !isThere(learning.value.macro)) learning.value = null
    if (inHand.value && !isThere(inHand.value)) inHand.value = null
    if (selected.value.length > 0 && !selected.value.every(isThere)) selected.value = selected.value.filter(isThere)
  }
  watch(() => doc.project, forgetGone, { flush: 'sync' })

  function select(id: string, more = false): void {
    if (id !== selectedId.value) {
      shownItem.value = 0
      // marks that are not in sight any more would be linked unseen
      marked.value = []
    }
    if (!more) selected.value = [id]
    else selected.value = selected.value.includes(id) ? selected.value.filter((x) => x !== id) : [...selected.value, id]
  }

  const toggleIn = (list: typeof soloTracks, id: string): void => {
    list.value = list.value.includes(id) ? list.value.filter((x) => x !== id) : [...list.value, id]
  }

  return {
    trackId,
    track,
    selected,
    selectedId,
    selection,
    openModulators,
    inHand,
    handOutput,
    alone,
    learning,
    repointing,
    recordingAutomation,
    controlFor,
    openInput,
    deviceShown,
    shownItem,
    listeningView,
    frozen,
    listeningEnlarged,
    enlarged,
    snapshotGlide,
    laneTables,
    lockedRows,
    lockedColumns,
    shows,
    responseView,
    shownLink,
    shownMacro,
    marked,
    pointed,
    traced,
    soloTracks,
    soloBranches,
    hearDry,
    upTo,
    part,
    soloItems,
    matching,
    matchDb,
    playing,
    starting,
    noOutput,
    night,
    stopCuts,
    buffer,
    rehearses,
    dialog,
    toKeep,
    takeAs,
    followsClock,
    outputDevice,
    inputDevices,
    monitorsInput,
    unheardInput,
    recordingTrack,
    heardTake,
    roundTrips,
    openLines,
    foldedTracks,
    recordingNotes,
    countsIn,
    quantisesTakes,
    copiedNotes,
    typesNotes,
    typedOctave,
    notesTo,
    offeredMidi,
    spoken,
    replacing,
    removed,
    bringing,
    overBudget,
    offerUndo,
    settleRemoved,
    toPrint,
    addSpot,
    carried,
    feedbackEdges,
    acknowledged,
    monitor,
    selectTrack,
    turnTo,
    select,
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
    toggleOpen: (id: string) => toggleIn(openModulators, id),
  }
})
