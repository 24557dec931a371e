import type { Preset } from '@oleaje/core/project/preset'
import type { Note } from '@oleaje/core/project/schema'
import { usualSource } from '@oleaje/core/sources/index'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { OfferedMidi } from '../contract/offered-midi'

/** State of the screen: open dialogs and lines, enlarged pictures, pending questions. */
export const useScreen = defineStore('screen', () => {
  const dialog = ref<
    | ''
    | 'keys'
    | 'find'
    | 'add'
    | 'projects'
    | 'macro'
    | 'track'
    | 'keep'
    | 'midi'
    | 'print'
    | 'export'
    | 'licences'
  >('')
  /** Whether the guide stands open beside the work. */
  const guide = ref(false)
  /** Whether the dice stand open beside the work. */
  const dice = ref(false)
  /** Whether the figures of what matters stand open beside the work. */
  const matters = ref(false)
  /** Whether the search towards a reference stands open above the try-outs. */
  const match = ref(false)
  /** The preset in the dialog to keep it. */
  const toKeep = shallowRef<Preset | null>(null)
  /** Track whose sound the next one that is chosen replaces; none for a new track. */
  const replacing = ref<string | null>(null)
  /**
   * What a sound that is chosen becomes: a track that loops it, one that plays it by notes, a kit, or another
   * pad of the kit that is open.
   */
  const takeAs = ref(usualSource)
  /** A MIDI file whose parts wait to be given to tracks. */
  const offeredMidi = shallowRef<OfferedMidi | null>(null)
  /** Where the next effect goes; set by plus marks and A. */
  const addSpot = shallowRef<{ after: string } | { startOf: string } | null>(null)
  /** Tracks whose notes are shown in the Timeline. */
  const openLines = ref<string[]>([])
  /** Track whose note tools stand in the tool line of the Timeline; null for the curve tools. */
  const toolLane = ref<string | null>(null)
  /** Tracks whose curves and takes are folded away in the Timeline. */
  const foldedTracks = ref<string[]>([])
  /** Notes that were copied. */
  const copiedNotes = shallowRef<readonly Note[]>([])
  /** Whether the simulated controller is shown. */
  const deviceShown = ref(false)
  /** Whether the listening views stand still, and the dock pane that is enlarged over the middle. */
  const frozen = ref(false)
  const enlargedPane = ref<number | null>(null)
  /** Whether the picture of what is selected lies over the whole middle. */
  const enlarged = ref(false)
  /** Time in which a snapshot is gone to, in seconds. */
  const snapshotGlide = ref(0.4)
  /**
   * Whether lanes are shown as tables, and what of each the dice leave alone: rows and columns by
   * `owner.lane`.
   */
  const laneTables = ref<Readonly<Record<string, boolean>>>({})
  const lockedRows = ref<Readonly<Record<string, readonly number[]>>>({})
  const lockedColumns = ref<Readonly<Record<string, readonly string[]>>>({})
  /** Subject of the response picture: the effect, its branch, or the chain up to it. */
  const shows = ref<'own' | 'branch' | 'up to here'>('own')
  /** The displayed quantity of a measured response. */
  const responseView = ref<'magnitude' | 'phase' | 'delay'>('magnitude')
  /** Link to be shown in the table, and macro whose targets are listed. */
  const shownLink = ref<string | null>(null)
  const shownMacro = ref<string | null>(null)

  /** Another project is open: nothing that was asked for the one before is. */
  function clear(): void {
    openLines.value = []
    toolLane.value = null
    foldedTracks.value = []
    takeAs.value = usualSource
    replacing.value = null
  }

  return {
    dialog,
    guide,
    dice,
    matters,
    match,
    toKeep,
    replacing,
    takeAs,
    offeredMidi,
    addSpot,
    openLines,
    toolLane,
    foldedTracks,
    copiedNotes,
    deviceShown,
    frozen,
    enlargedPane,
    enlarged,
    snapshotGlide,
    laneTables,
    lockedRows,
    lockedColumns,
    shows,
    responseView,
    shownLink,
    shownMacro,
    clear,
  }
})
