import { type RemovableRef, type StorageLike, useStorage } from '@vueuse/core'

/**
 * Something chosen for this browser, not for a project: kept at once, so that it is there even where the page
 * is left in the same moment, and known before the first picture. What was kept and does not hold any more
 * gives way to the initial value.
 */
export function preference<T>(
  key: string,
  initial: T,
  holds: (kept: T) => boolean = () => true,
): RemovableRef<T> {
  return keptIn('localStorage', key, initial, holds)
}

/** The same for this tab alone: it is there after a reload, and another tab has its own. */
export const tabPreference = <T>(key: string, initial: T): RemovableRef<T> =>
  keptIn('sessionStorage', key, initial, () => true)

function keptIn<T>(
  place: 'localStorage' | 'sessionStorage',
  key: string,
  initial: T,
  holds: (kept: T) => boolean,
): RemovableRef<T> {
  const options = { flush: 'sync', writeDefaults: false, onError: () => {} } as const
  const kept = useStorage<T>(`oleaje.${key}`, initial, storageOf(place), options)
  if (!holds(kept.value)) kept.value = initial
  return kept
}

/**
 * Where site data is blocked, the mere question for the storage throws; then preferences last as long as the
 * page.
 */
function storageOf(place: 'localStorage' | 'sessionStorage'): StorageLike {
  try {
    return globalThis[place]
  } catch {
    return forgetful
  }
}
const forgetful: StorageLike = { getItem: () => null, setItem: () => {}, removeItem: () => {} }
