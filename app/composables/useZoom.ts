import { type ComputedRef, type Ref, computed, ref } from 'vue'

/** The part of something that is shown, as shares of its length. */
export interface Shown {
  readonly from: number
  readonly to: number
}

export interface Zoom {
  readonly view: Ref<Shown>
  readonly isClosest: ComputedRef<boolean>
  /** Larger by so many octaves about a place, which stays where it is. */
  by(octaves: number, about: number): void
  /** Along by a share of what is shown. */
  scroll(by: number): void
  /** Brings a place into the middle. */
  centre(place: number): void
  /** Brings a place into the middle where it is out of sight. */
  show(place: number): void
  /** Shows a stretch, with a little on both sides. */
  fit(from: number, to: number): void
  /** Does what a key does: + and − zoom about a place, 0 shows all. False where it is none of these. */
  key(key: string, about: number): boolean
}

/** Looking at a part of something long, from all of it down to the smallest share. */
export function useZoom(least: () => number): Zoom {
  const view = ref<Shown>({ from: 0, to: 1 })
  const span = (): number => view.value.to - view.value.from
  /** A stretch of that length from there, or as near as the ends let it be. */
  function set(from: number, length: number): void {
    const l = Math.min(1, Math.max(least(), length))
    const a = Math.min(1 - l, Math.max(0, from))
    if (a !== view.value.from || a + l !== view.value.to) view.value = { from: a, to: l === 1 ? 1 : a + l }
  }
  const zoom: Zoom = {
    view,
    isClosest: computed(() => span() <= least() * 1.001),
    by: (octaves, about) => {
      const length = Math.min(1, Math.max(least(), span() * 2 ** -octaves))
      set(about - ((about - view.value.from) / span()) * length, length)
    },
    scroll: (by) => set(view.value.from + by * span(), span()),
    centre: (place) => set(place - span() / 2, span()),
    show: (place) => {
      if (place < view.value.from || place > view.value.to) zoom.centre(place)
    },
    fit: (from, to) => set(from - 0.03 * (to - from), 1.06 * (to - from)),
    key: (key, about) => {
      // on many layouts + is = with Shift
      if (key === '+' || key === '=') zoom.by(1, about)
      else if (key === '-' || key === '_') zoom.by(-1, about)
      else if (key === '0') set(0, 1)
      else return false
      return true
    },
  }
  return zoom
}
