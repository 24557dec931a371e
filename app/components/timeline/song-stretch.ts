import type { Span } from '@oleaje/core/project/curve-edits'
import {
  type CopiedStretch,
  type SongLane,
  clearStretch,
  copyStretch,
  pasteStretch,
  repeatStretch,
  scaleStretch,
} from '@oleaje/core/project/stretch-edits'
import { computed, shallowRef } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import type { Session } from '../../services/session'

/** A lane of the Timeline in the order in which they stand there, with its name. */
export interface NamedLane {
  readonly key: string
  readonly name: string
  readonly lane: SongLane
}

/**
 * A chosen stretch of the song over one or several lanes, and what can be done with it, by pointer and by
 * key.
 */
export function useStretch(
  { doc, selection, notices, host }: Session,
  lanes: () => readonly NamedLane[],
  grid: () => number,
) {
  const span = shallowRef<Span | null>(null)
  const keys = shallowRef<readonly string[]>([])
  const copied = shallowRef<CopiedStretch | null>(null)
  const chosen = computed(() => lanes().filter((l) => keys.value.includes(l.key)))
  const words = computed(() => {
    const s = span.value
    const { length } = chosen.value
    const round = (beat: number): number => Math.round(beat * 100) / 100
    return s && length
      ? `beat ${round(s.from)} to ${round(s.to)} of ${length === 1 ? chosen.value[0]?.name : `${length} lanes`}`
      : ''
  })

  function choose(next: Span | null, from?: string, to = from): void {
    span.value = next
    if (from === undefined || to === undefined) return
    const order = lanes().map((l) => l.key)
    const ends = [order.indexOf(from), order.indexOf(to)].sort((a, b) => a - b)
    keys.value = order.slice(ends[0], (ends[1] ?? 0) + 1)
  }
  const snapped = (beat: number): number => (grid() > 0 ? Math.round(beat / grid()) * grid() : beat)

  /**
   * Chooses from where the pointer is pressed to where it is let go, over all lanes between.
   * @param beatAt beat of a place of the window
   */
  function press(e: PointerEvent, key: string, beatAt: (clientX: number) => number): void {
    const start = snapped(Math.max(0, beatAt(e.clientX)))
    const move = (m: PointerEvent): void => {
      const at = snapped(Math.max(0, beatAt(m.clientX)))
      const over =
        document.elementFromPoint(m.clientX, m.clientY)?.closest<HTMLElement>('[data-lane]')?.dataset.lane ??
        keys.value.at(-1)
      choose(at === start ? null : { from: Math.min(start, at), to: Math.max(start, at) }, key, over)
    }
    choose(null, key)
    followPointer(e, move)
  }

  const lanesOf = (): SongLane[] => chosen.value.map((l) => l.lane)
  const edit = (
    label: string,
    how: (span: Span, lanes: SongLane[]) => Parameters<typeof doc.edit>[1],
  ): void => {
    if (span.value && chosen.value.length) doc.edit(label, how(span.value, lanesOf()))
  }
  function copy(): void {
    if (doc.project && span.value && chosen.value.length)
      copied.value = copyStretch(doc.project, span.value, lanesOf())
  }
  const acts = {
    copy,
    cut: () => {
      copy()
      edit('Cut range', clearStretch)
    },
    /** At the playhead, into the chosen lanes; what was pasted is chosen then. */
    paste: () => {
      const { value: what } = copied
      if (!what || !chosen.value.length) return
      const at = snapped(host.telemetry.fixed('beat'))
      doc.edit('Paste range', pasteStretch(what, at, lanesOf()))
      span.value = { from: at, to: at + what.length }
    },
    repeat: () => {
      const { value: s } = span
      edit('Repeat range', repeatStretch)
      if (s) span.value = { from: s.to, to: 2 * s.to - s.from }
    },
    scale: (factor: number) => {
      const { value: s } = span
      edit(factor > 1 ? 'Lengthen range' : 'Shorten range', (on, over) => scaleStretch(on, over, factor))
      if (s) span.value = { from: s.from, to: s.from + (s.to - s.from) * factor }
    },
    remove: () => edit('Clear range', clearStretch),
    none: () => {
      choose(null)
      keys.value = []
    },
  }

  /**
   * Shift and arrows choose: along the song by the grid, over the lanes by one; then what is done with text
   * is done with it. Whether it was one of these.
   */
  function keydown(e: KeyboardEvent): boolean {
    const order = lanes().map((l) => l.key)
    const first = keys.value[0] ?? `notes:${selection.track?.id ?? ''}`
    const last = keys.value.at(-1) ?? first
    const now = span.value ?? {
      from: snapped(host.telemetry.fixed('beat')),
      to: snapped(host.telemetry.fixed('beat')),
    }
    const along = (by: number): void =>
      choose(
        { from: now.from, to: Math.max(now.from + (grid() || 1), now.to + by * (grid() || 1)) },
        order.includes(first) ? first : order[0],
        order.includes(last) ? last : order[0],
      )
    const over = (by: number): void =>
      choose(
        now.to > now.from ? now : { from: now.from, to: now.from + (grid() || 1) },
        first,
        order[Math.min(order.length - 1, Math.max(order.indexOf(first), order.indexOf(last) + by))],
      )
    const found: Record<string, () => void> = {
      'Shift+ArrowRight': () => along(1),
      'Shift+ArrowLeft': () => along(-1),
      'Shift+ArrowDown': () => over(1),
      'Shift+ArrowUp': () => over(-1),
      'Ctrl+c': acts.copy,
      'Ctrl+x': acts.cut,
      'Ctrl+v': acts.paste,
      'Ctrl+d': acts.repeat,
      'Delete': acts.remove,
      'Backspace': acts.remove,
      ...(span.value ? { Escape: acts.none } : {}),
    }
    const act = found[`${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.shiftKey ? 'Shift+' : ''}${e.key}`]
    act?.()
    if (act) notices.spoken = words.value || 'nothing chosen'
    return act !== undefined
  }

  return { span, keys, chosen, words, copied, acts, press, keydown, choose }
}
