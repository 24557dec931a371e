import { onBeforeUnmount, onMounted } from 'vue'

type Drawer = (now: number) => void

const drawers = new Set<Drawer>()
let running = false

function loop(now: number): void {
  for (const draw of drawers) draw(now)
  if (drawers.size) requestAnimationFrame(loop)
  else running = false
}

/** Calls `draw` at every animation frame until the returned function is called. One loop serves all. */
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
