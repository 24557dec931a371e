/**
 * How much sound is kept ready at the output: the least the browser can do with, or some seconds of it. More
 * rides out a machine that is busy with other things; what a hand or a live input does is heard that much
 * later.
 */
export const buffers = { short: 'interactive', middle: 0.03, long: 0.1 } as const
export type Buffering = keyof typeof buffers
