/** Parts of the page that keys can be about, as `data-region` says. */
export type Region = 'chart' | 'effect' | 'tracks' | 'modulators' | 'notes' | 'page' | 'other'

/** The part of the page that an element belongs to. */
export function regionOf(el: Element | null): Region {
  if (!el || el === document.body || el === document.documentElement) return 'page'
  return (el.closest<HTMLElement>('[data-region]')?.dataset.region as Region | undefined) ?? 'other'
}
