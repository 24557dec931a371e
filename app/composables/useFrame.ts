import { onBeforeUnmount, onMounted } from 'vue'
import { type Drawer, onFrame } from '../drawing/frames'

/** Calls `draw` at the pace of pictures for the life of a component. */
export function useFrame(draw: Drawer): void {
  let end = (): void => {}
  onMounted(() => {
    end = onFrame(draw)
  })
  onBeforeUnmount(() => end())
}
