import { type Ref, computed, nextTick, onMounted, ref, watch } from 'vue'
import { inSteps } from './wheel-steps'

interface Setup {
  /** Height of the lane in px, where it was set. */
  readonly height: number | undefined
  /** Height of a row in px before it is zoomed. */
  readonly row: number
  /** Pitches of the notes, at which it opens. */
  readonly pitches: readonly number[]
}

/** Rows that a new roll shows, at the least and at the most. */
const LEAST_ROWS = 25
const MOST_ROWS = 36
const AROUND = 4
const MIDDLE = 60
const SMALLEST = 6
const LARGEST = 30

/**
 * The vertical part of a roll: which rows are in view and how tall they are. It opens at the notes.
 * @param keys the element with the names of the rows, which scrolls
 * @param rows the rows, the highest first
 * @param beneath px below the rows that belong to the lane
 */
export function useRoll(
  keys: Ref<HTMLElement | null>,
  rows: Ref<readonly { readonly pitch: number }[]>,
  setup: () => Setup,
  beneath: number,
) {
  /** Px that are scrolled away above. */
  const top = ref(0)
  const zoomed = ref(0)
  const rowHeight = computed(() => Math.min(LARGEST, Math.max(SMALLEST, setup().row + zoomed.value)))
  const byPitch = computed(() => new Map(rows.value.map((r, i) => [r.pitch, i])))
  /** Rows of the notes and some around them, from the highest down. */
  const inUse = computed(() => {
    const at = setup().pitches.flatMap((p) => byPitch.value.get(Math.round(p)) ?? [])
    const middle = byPitch.value.get(MIDDLE) ?? 0
    let [first, last] = at.length
      ? [Math.min(...at) - AROUND, Math.max(...at) + AROUND]
      : [middle - AROUND, middle + AROUND]
    while (last - first + 1 < LEAST_ROWS) {
      first--
      last++
    }
    return { first: Math.max(0, first), last: Math.min(rows.value.length - 1, last) }
  })
  /** Height of the rows in px; it stays as the notes change, so that nothing moves under the hand. */
  const opened = Math.min(MOST_ROWS, inUse.value.last - inUse.value.first + 1)
  const height = computed(() => {
    const { height, row } = setup()
    const usual = Math.min(rows.value.length, opened) * row
    return Math.min(rows.value.length * rowHeight.value, height ? height - beneath : usual)
  })

  function scrollTo(px: number): void {
    const most = rows.value.length * rowHeight.value - height.value
    top.value = Math.round(Math.min(most, Math.max(0, px)))
    if (keys.value) keys.value.scrollTop = top.value
  }
  const yOf = (row: number): number => row * rowHeight.value - top.value
  const isInView = (row: number): boolean =>
    yOf(row) > -rowHeight.value / 2 && yOf(row) < height.value - rowHeight.value / 2

  /** Brings a row into view. */
  function show(pitch: number): void {
    const row = byPitch.value.get(Math.round(pitch)) ?? -1
    if (row >= 0 && !isInView(row)) scrollTo(row * rowHeight.value - height.value / 2)
  }
  function zoom(by: number): void {
    const middle = (top.value + height.value / 2) / rowHeight.value
    zoomed.value = Math.min(LARGEST, Math.max(SMALLEST, rowHeight.value + by)) - setup().row
    void nextTick(() => scrollTo(middle * rowHeight.value - height.value / 2))
  }
  /** Alt and the wheel scroll, with Shift they zoom. */
  function wheel(e: WheelEvent): void {
    if (!e.altKey) return
    e.preventDefault()
    e.stopPropagation()
    // some browsers turn the wheel sideways while Shift is held
    const by = inSteps(e.deltaY || e.deltaX, e.deltaMode)
    if (e.shiftKey) zoom(-Math.sign(by))
    else scrollTo(top.value + by * 3 * rowHeight.value)
  }
  const open = (): void => {
    const { first, last } = inUse.value
    // what does not fit is shown from the top, where melodies are
    scrollTo(
      last - first + 1 > opened
        ? first * rowHeight.value
        : ((first + last + 1) * rowHeight.value - height.value) / 2,
    )
  }
  onMounted(open)
  // other notes than those that were looked at, as from a file
  watch(inUse, () => {
    const pitches = setup().pitches.map((p) => byPitch.value.get(Math.round(p)) ?? 0)
    if (pitches.length && !pitches.some(isInView)) open()
  })

  return {
    top,
    rowHeight,
    height,
    yOf,
    isInView,
    rowOf: (pitch: number): number => byPitch.value.get(Math.round(pitch)) ?? -1,
    pitchAt: (y: number): number =>
      rows.value[Math.min(rows.value.length - 1, Math.max(0, Math.floor((y + top.value) / rowHeight.value)))]
        ?.pitch ?? MIDDLE,
    show,
    scroll: (by: number): void => scrollTo(top.value + by * rowHeight.value),
    zoom,
    wheel,
    follow: (): void => {
      top.value = keys.value?.scrollTop ?? 0
    },
  }
}
