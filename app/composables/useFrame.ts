import { onBeforeUnmount, onMounted } from 'vue'
import { FRAME, Pace } from './pace'

type Drawer = (now: number) => void

const drawers = new Set<Drawer>()
let running = false
/** What says how many blocks of sound have come late so far. */
let countLate: (() => number) | null = null
const pace = new Pace()

let began = 0
let afterFrame: MessagePort | null = null

/** Where a message that is sent while a frame is drawn comes back when the browser has done its part of that frame. */
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
  if (drawers.size) setTimeout(() => requestAnimationFrame(loop), pace.apart - FRAME)
  else running = false
}

/** Lets pictures give way to sound, by its count of late blocks. */
export function giveWayTo(late: () => number): void {
  countLate = late
}

/**
 * Calls `draw` about thirty times a second, less often while sound comes late, until the returned function is called. One loop serves all.
 */
export function onFrame(draw: Drawer): () => void {
  drawers.add(draw)
  if (!running) {
    running = true
    requestAnimationFrame(loop)
  }
  return () => drawers.delete(draw)
}

/** The same for the life of a component. */
export function useFrame(draw: Drawer): void {
  let end = (): void => {}
  onMounted(() => {
    end = onFrame(draw)
  })
  onBeforeUnmount(() => end())
}
