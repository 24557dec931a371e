import { type Ref, onBeforeUnmount, ref, watch } from 'vue'
import { onFrame } from '../drawing/frames'

export interface Pen {
  readonly g: CanvasRenderingContext2D
  readonly width: number
  readonly height: number
  /** A colour of the present palette by its name, e.g. `ink` or `hue-3`. */
  readonly color: (name: string) => string
  /**
   * Lays down what stands still: drawn once, and again when one of `of`, the size or the palette is another.
   */
  readonly still: (of: readonly unknown[], draw: (g: CanvasRenderingContext2D) => void) => void
}

const colors = new Map<string, string>()
let colorsFor = ''

/** A colour of the present palette, read once each time the palette changes. */
export function paletteColor(name: string): string {
  const palette = document.documentElement.className
  if (palette !== colorsFor) {
    colors.clear()
    colorsFor = palette
  }
  let c = colors.get(name)
  if (!c) {
    c = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
    colors.set(name, c)
  }
  return c
}

/**
 * A canvas that keeps sharp and is drawn at animation frames while it can be seen. `draw` may say false to be
 * left as it is.
 */
export function useCanvas(draw: (pen: Pen, now: number) => void): Ref<HTMLCanvasElement | null> {
  const canvas = ref<HTMLCanvasElement | null>(null)
  let end = (): void => {}
  let observers: { disconnect(): void }[] = []
  watch(
    canvas,
    (el) => {
      close()
      const g = el?.getContext('2d')
      if (!el || !g) return
      const layer = document.createElement('canvas')
      let layerOf: readonly unknown[] = []
      const still: Pen['still'] = (of, drawStill) => {
        const now = [...of, el.width, el.height, document.documentElement.className]
        const on = layer.getContext('2d')
        if (!on) return
        if (now.length !== layerOf.length || now.some((v, i) => v !== layerOf[i])) {
          layerOf = now
          layer.width = el.width
          layer.height = el.height
          on.setTransform(g.getTransform())
          drawStill(on)
        }
        g.drawImage(layer, 0, 0, width, height)
      }
      let seen = true
      let width = 0
      let height = 0
      const fit = new ResizeObserver(() => {
        const ratio = devicePixelRatio || 1
        width = el.clientWidth
        height = el.clientHeight
        el.width = Math.max(1, Math.round(width * ratio))
        el.height = Math.max(1, Math.round(height * ratio))
        g.setTransform(ratio, 0, 0, ratio, 0, 0)
      })
      fit.observe(el)
      const look = new IntersectionObserver((entries) => {
        seen = entries[entries.length - 1]?.isIntersecting ?? true
      })
      look.observe(el)
      observers = [fit, look]
      end = onFrame((now) => {
        if (!seen || width < 4 || height < 4 || document.hidden) return
        g.clearRect(0, 0, width, height)
        draw({ g, width, height, color: paletteColor, still }, now)
      })
    },
    { flush: 'post' },
  )
  function close(): void {
    end()
    for (const o of observers) o.disconnect()
    observers = []
  }
  onBeforeUnmount(close)
  return canvas
}
