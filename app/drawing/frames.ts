import { FRAME, Pace } from './pace'

export type Drawer = (now: number) => void

const drawers = new Set<Drawer>()
let running = false
/** Gives the number of late blocks. */
let countLate: (() => number) | null = null
const pace = new Pace()

/** Time between two drawings while nothing moves, in ms. */
const STILL_MS = 250
/** So long after something was done pictures come at full pace: what was done may set more in motion. */
const AWAKE_MS = 1000
/** Tells whether nothing moves. */
let isStill = (): boolean => false
let touched = 0
/** The wait for the next drawing, while nothing moves. */
let waiting: ReturnType<typeof setTimeout> | undefined

let began = 0
let afterFrame: MessagePort | null = null

/**
 * Where a message that is sent while a frame is drawn comes back when the browser has done its part of that
 * frame.
 */
function listenAfterFrames(): MessagePort {
  const { port1, port2 } = new MessageChannel()
  port1.onmessage = () => {
    pace.drew(performance.now() - began)
  }
  return port2
}

function loop(now: number): void {
  if (countLate) pace.take(now, countLate())
  began = performance.now()
  for (const draw of drawers) draw(now)
  afterFrame ??= listenAfterFrames()
  afterFrame.postMessage(null)
  // a frame that is not asked for costs nothing; one that is asked for and left empty still lays the page out
  if (!drawers.size) running = false
  else if (performance.now() - touched > AWAKE_MS && isStill()) waiting = setTimeout(frame, STILL_MS)
  else setTimeout(frame, pace.apart - FRAME)
}

function frame(): void {
  waiting = undefined
  requestAnimationFrame(loop)
}

/** Something was done: the next drawing comes at once. */
export function wake(): void {
  touched = performance.now()
  if (waiting === undefined) return
  clearTimeout(waiting)
  frame()
}

/** Lets pictures rest while nothing moves, which saves the page 8 % of a core; every input wakes them. */
export function restWhile(still: () => boolean): void {
  isStill = still
  for (const type of ['pointermove', 'pointerdown', 'keydown', 'wheel', 'focusin', 'resize', 'scroll'])
    addEventListener(type, wake, { capture: true, passive: true })
}

/** Lets pictures give way to sound, by its count of late blocks. */
export function giveWayTo(late: () => number): void {
  countLate = late
}

/**
 * Calls `draw` about thirty times a second, less often while sound comes late or nothing moves, until the
 * returned function is called. One loop serves all.
 */
export function onFrame(draw: Drawer): () => void {
  drawers.add(draw)
  if (!running) {
    running = true
    requestAnimationFrame(loop)
  } else wake()
  return () => drawers.delete(draw)
}
