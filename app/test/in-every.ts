/** One stand-in for all stores, so that a test need not know which of them holds what. */
export const inEvery = <T extends object>(stand: T): Record<string, T> => new Proxy({}, { get: () => stand })
