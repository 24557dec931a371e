import { onBeforeUnmount, onMounted } from 'vue'

type Drawer = (now: number) => void

/**
 * Shortest time between two drawings, in ms: about thirty a second. Where the page is drawn in software, twice as many
 * cost most of a core, and the sound beside it needs that more than a dot needs to move more finely.
 */
const APART = 30

const drawers = new Set<Drawer>()
let running = false
let drawn = -Infinity

function loop(now: number): void {
  if (now - drawn >= APART) {
    drawn = now
    for (const draw of drawers) draw(now)
  }
  if (drawers.size) requestAnimationFrame(loop)
  else running = false
}

/** Calls `draw` about thirty times a second until the returned function is called. One loop serves all. */
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
  onMounted(() => { end = onFrame(draw) })
  onBeforeUnmount(() => end())
}
