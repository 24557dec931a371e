/** Jobs of this worker that are wanted still. */
export const running = new Set<number>()

/** Somebody does not want it any more. */
export class Cancelled extends Error {}
