import { usePreferredDark } from '@vueuse/core'
import { defineStore } from 'pinia'
import { type Buffering, buffers } from '../audio/buffering'
import type { PaneView } from './listening-views'
import { preference } from './preference'

/** Settings that are stored in this browser. */
export const usePreferences = defineStore('preferences', () => ({
  night: preference('night', usePreferredDark().value),
  /** How much sound is kept ready at the output. */
  buffer: preference<Buffering>('buffer', 'short', (kept) => kept in buffers),
  /**
   * Whether the engine works through each project unheard before it plays, so that its first seconds do not
   * stutter.
   */
  rehearses: preference('rehearses', true),
  /** Whether the clock of a device gives the tempo, and its start and stop play. */
  followsClock: preference('follows-clock', false),
  /** Device that sound comes out of; the usual one without. */
  outputDevice: preference('output-device', ''),
  /** Whether an open input is heard. */
  monitorsInput: preference('monitors-input', true),
  /** The views of the dock's panes, and the dock's height in px; 0 until it was set. */
  paneViews: preference<PaneView[]>(
    'pane-views',
    ['song', 'spectra', 'loudness'],
    (kept) => Array.isArray(kept) && kept.length === 3,
  ),
  dockHeight: preference('dock-height', 0),
  /** Heights of lanes of the Timeline in px, by the id of the lane, where they were set. */
  laneHeights: preference<Record<string, number>>('lane-heights', {}),
  /** Where the guide stands, in px from the right and from the top. */
  guidePlace: preference('guide-place', { right: 300, top: 60 }),
  /** Whether what is highlighted on the Shelf is previewed, and also what the pointer rests on. */
  previews: preference('previews', true),
  previewsHovered: preference('previews-hovered', false),
  /** The first steps that were done, and whether they are hidden. */
  firstSteps: preference<{ done: string[]; hidden: boolean }>('first-steps', { done: [], hidden: false }),
  /** Effects and sources, by type, whose gauges are all shown, not only the main ones. */
  allGauges: preference<Record<string, boolean>>('all-gauges', {}),
  /** The measured way from the output to each input, in samples. */
  roundTrips: preference<Record<string, number>>('round-trips', {}),
}))
