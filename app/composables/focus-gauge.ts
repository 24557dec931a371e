/** Puts the focus on a gauge: on itself, or on the switch, segment or list in it. */
export function focusGauge(gauge: HTMLElement | null): void {
  const el = gauge?.matches('[tabindex]') ? gauge : gauge?.querySelector<HTMLElement>('[tabindex="0"], button')
  el?.focus()
}

/** Its place on the page, by owner and path. */
export const gaugeAt = (key: string): HTMLElement | null => document.querySelector<HTMLElement>(`[data-gauge="${key}"]`)
