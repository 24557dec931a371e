import type { Session } from '../services/session'

/** The services of this tab. */
export const useSession = (): Session => useNuxtApp().$session as Session
