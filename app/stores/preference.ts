import { type RemovableRef, useLocalStorage } from '@vueuse/core'

/**
 * Something chosen for this browser, not for a project: kept at once, so that it is there even where the page is left in the same
 * moment, and known before the first picture. What was kept and does not hold any more gives way to the initial value.
 */
export function preference<T>(key: string, initial: T, holds: (kept: T) => boolean = () => true): RemovableRef<T> {
  const kept = useLocalStorage<T>(`oleaje.${key}`, initial, { flush: 'sync', writeDefaults: false, onError: () => {} })
  if (!holds(kept.value)) kept.value = initial
  return kept
}
