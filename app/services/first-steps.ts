import { watch } from 'vue'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { Shelf } from './shelf'

/** The first steps of a new user, each with what to do. */
export const firstSteps = [
  { id: 'play', title: 'Play', text: 'Press Space. The water on the chart shows the level.' },
  { id: 'add', title: 'Add', text: 'Press A, type an effect, and press Enter.' },
  { id: 'link', title: 'Link', text: 'Click a modulator’s badge, then drag on a gauge.' },
  { id: 'narrow', title: 'Narrow', text: 'Drag the ends of the coloured band on the gauge.' },
  { id: 'compare', title: 'Compare', text: 'Press C for A and B, or V for dry.' },
  { id: 'keep', title: 'Keep', text: 'Press Shift+F to save the effect or the chain.' },
] as const
export type FirstStep = (typeof firstSteps)[number]['id']

/** Ticks the first steps off as they are done, whichever way they are done. */
export function watchFirstSteps(
  { monitoring, preferences, selection }: Pick<Stores, 'monitoring' | 'preferences' | 'selection'>,
  doc: ReturnType<typeof useDocument>,
  shelf: Shelf,
): void {
  const tick = (step: FirstStep): void => {
    if (!preferences.firstSteps.done.includes(step))
      preferences.firstSteps = { ...preferences.firstSteps, done: [...preferences.firstSteps.done, step] }
  }
  watch(
    () => monitoring.playing,
    (plays) => plays && tick('play'),
  )
  watch(
    () => doc.undoLabel,
    (label) => {
      if (/^(Add|Split with|Replace with)/.test(label)) tick('add')
      if (/^Link/.test(label)) tick('link')
      if (/^Set ranges? of/.test(label)) tick('narrow')
    },
  )
  watch(
    () => [monitoring.hearDry, selection.track?.heard === 'b'] as const,
    ([dry, b]) => (dry || b) && tick('compare'),
  )
  watch(
    () => shelf.items.value.length,
    (now, before) => now > before && tick('keep'),
  )
}
