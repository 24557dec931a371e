<script setup lang="ts">
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'

/** The tracks: what plays, how loud it is, and whether it is heard. */
const { doc, host, screen } = useSession()
const list = ref<HTMLElement | null>(null)

/** A peak stands so long, then falls, in ms and dB a second. */
const HOLD_MS = 1500
const FALL = 20
/** The quiet end of the meters in dB. */
const FLOOR = -60
interface Held {
  db: number
  at: number
}
const held = new Map<string, Held>()
const place = (db: number): number => Math.max(0, Math.min(1, (db - FLOOR) / -FLOOR))

let told = 0
let last = 0
useFrame((now) => {
  if (!list.value) return
  const numbers = now - told > 120
  if (numbers) told = now
  for (const el of list.value.querySelectorAll<HTMLElement>('[data-track]')) {
    const id = el.dataset.track ?? ''
    const peak = host.telemetry.get(`peak:track:${id}`)
    const db = peak > 0.00003 ? 20 * Math.log10(peak) : -90
    const hold = held.get(id) ?? { db: -90, at: 0 }
    if (db >= hold.db) Object.assign(hold, { db, at: now })
    else if (now - hold.at > HOLD_MS) hold.db = Math.max(db, hold.db - (FALL * (now - last)) / 1000)
    held.set(id, hold)
    const bar = el.querySelector<HTMLElement>('[data-bar]')
    if (bar) bar.style.transform = `scaleX(${place(db)})`
    const mark = el.querySelector<HTMLElement>('[data-hold]')
    if (mark) mark.style.transform = `translateX(${hold.db <= FLOOR ? -4 : place(hold.db) * 30}px)`
    if (peak > 1) el.querySelector<HTMLElement>('[data-clip]')?.removeAttribute('hidden')
    const text = el.querySelector<HTMLElement>('[data-db]')
    if (numbers && text)
      text.textContent = hold.db < -80 ? '−∞ dB' : `${hold.db.toFixed(1).replace('-', '−')} dB`
  }
  last = now
})

/** Pressed, a mark of going over is forgotten. */
function forget(e: MouseEvent): void {
  ;(e.target as HTMLElement).closest<HTMLElement>('[data-clip]')?.setAttribute('hidden', '')
}
</script>

<template>
  <section
    ref="list"
    class="flex h-full flex-col overflow-y-auto"
    aria-label="Tracks"
    data-region="tracks"
    @click="forget"
  >
    <header class="flex items-center justify-between px-3 pt-2 pb-1">
      <h2 class="panel-title">Tracks</h2>
      <button
        class="plain-button"
        title="Adds a track: a shipped sound, a file, a live input or a test signal"
        @click="screen.dialog = 'track'"
      >
        Add
      </button>
    </header>
    <TrackLine v-for="t in doc.project?.tracks" :key="t.id" :track="t" />
    <FirstSteps />
  </section>
</template>
