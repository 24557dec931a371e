/** The focusable element of a gauge: itself, or the switch, segment or list in it. */
export const focusOfGauge = (gauge: HTMLElement | null): HTMLElement | null =>
  gauge?.matches('[tabindex]') ? gauge : (gauge?.querySelector<HTMLElement>('[tabindex="0"], button') ?? null)

/** Its place on the page, by owner and path. */
export const gaugeAt = (key: string): HTMLElement | null =>
  document.querySelector<HTMLElement>(`[data-gauge="${key}"]`)
