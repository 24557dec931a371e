<script setup lang="ts">
import { type OwnVowel, formantsAt, ownFrom, readVowels, vowelNear, vowels } from '@oleaje/core/effects/vowel'
import { together } from '@oleaje/core/project/edit'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import { decibel, hertz } from '@oleaje/core/units/parameter'
import { computed, ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import ResponsePicture from './ResponsePicture.vue'
import { vowelMarks } from './response-marks'
import { drawSheet } from './profile'

/**
 * The plane of the first two formants with the vowels on it, to be dragged; the response; or a list of one's
 * own peaks.
 */
const props = defineProps<{ id: string }>()
const { doc } = useSession()
const hand = useGesture()
const live = useLive(props.id)
const view = ref<'plane' | 'response' | 'own'>('plane')
const own = computed(() => readVowels(live.effect.value?.data?.vowels))
const chosen = ref(0)
const shown = computed(() => own.value[Math.min(chosen.value, own.value.length - 1)])
const peaks = new Float64Array(5)
const place = new Float64Array(4)
let sheet: ReturnType<typeof drawSheet> | null = null

/** First two formants for a set of values, without the size of the throat. */
function at(v: Record<string, number>): [number, number] {
  if ((v.mode ?? 0) === 2 && own.value.length > 0) {
    const along = (v.position ?? 0) * (own.value.length - 1)
    const k = Math.min(own.value.length - 1, Math.floor(along))
    const [a, b] = [own.value[k]?.peaks, (own.value[k + 1] ?? own.value[k])?.peaks]
    const between = (n: number): number =>
      (a?.[n]?.frequency ?? 500) * ((b?.[n]?.frequency ?? 500) / (a?.[n]?.frequency ?? 500)) ** (along - k)
    return [between(0), between(1)]
  }
  place.set([v.position ?? 0, v.open ?? 0, v.front ?? 0, 1])
  formantsAt((v.mode ?? 0) === 1 ? 1 : 0, place, peaks)
  return [peaks[0] ?? 500, peaks[1] ?? 1500]
}

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  // front of the mouth at the left and open below, as phoneticians draw it
  const s = (sheet = drawSheet(
    pen,
    {
      min: 2600,
      max: 700,
      log: true,
      marks: [
        [2400, '2.4k'],
        [1700, '1.7k'],
        [1200, '1.2k'],
        [850, '850'],
      ],
    },
    {
      min: 900,
      max: 220,
      log: true,
      marks: [
        [270, '270'],
        [400, '400'],
        [600, '600'],
        [800, '800'],
      ],
    },
  ))
  g.textAlign = 'center'
  g.textBaseline = 'middle'
  g.font = 'italic 22px Newsreader'
  const now = live.now()
  const [f1, f2] = at(now)
  const name = (now.mode ?? 0) === 2 ? '' : vowelNear(f1, f2)
  for (const v of vowels) {
    g.fillStyle = v.sign === name ? color('magenta') : color('second')
    g.fillText(v.sign, s.x(v.formants[1]), s.y(v.formants[0]))
  }
  g.font = 'italic 16px Newsreader'
  if ((now.mode ?? 0) === 2) {
    g.fillStyle = color('ink')
    for (const v of own.value)
      g.fillText(v.name || '·', s.x(v.peaks[1]?.frequency ?? 1500), s.y(v.peaks[0]?.frequency ?? 500))
  }
  const path = (values: (t: number) => Record<string, number>): void => {
    g.beginPath()
    for (let t = 0; t <= 1.0001; t += 0.02) {
      const [a, b] = at(values(t))
      g.lineTo(s.x(b), s.y(a))
    }
    g.stroke()
  }
  if ((now.mode ?? 0) !== 1) {
    g.strokeStyle = color('deep')
    g.lineWidth = 1
    path((t) => ({ ...now, position: t }))
  }
  const ends = live.ends.value
  if (ends) {
    g.strokeStyle = color(`hue-${ends.hue}`)
    g.lineWidth = 4
    g.globalAlpha = 0.5
    path((t) => ({
      ...now,
      position: mix(ends.low.position, ends.high.position, t),
      open: mix(ends.low.open, ends.high.open, t),
      front: mix(ends.low.front, ends.high.front, t),
    }))
    g.globalAlpha = 1
  }
  const [b1, b2] = at(live.base.value)
  g.strokeStyle = color('ink')
  g.lineWidth = 1.5
  g.beginPath()
  g.arc(s.x(b2), s.y(b1), 7, 0, 7)
  g.stroke()
  g.fillStyle = color('ink')
  g.beginPath()
  g.arc(s.x(f2), s.y(f1), 5, 0, 7)
  g.fill()
})
const mix = (a: number | undefined, b: number | undefined, t: number): number =>
  (a ?? 0) + ((b ?? 0) - (a ?? 0)) * t

/** Drags jaw and tongue; from a list it goes over to the plane. */
function press(e: PointerEvent): void {
  const el = e.currentTarget as HTMLElement
  const box = el.getBoundingClientRect()
  const mode = live.base.value.mode ?? 0
  const move = (m: PointerEvent): void => {
    const s = sheet
    // a click on the own list stays in it; only a drag goes to the free plane
    if (!s || (mode === 2 && Math.hypot(m.clientX - e.clientX, m.clientY - e.clientY) < 4)) return
    if (mode !== 1) hand.edit('Drag', setParam(props.id, 'mode', 1))
    const f2 = 2600 * (700 / 2600) ** ((m.clientX - box.left - s.left) / (s.right - s.left))
    const f1 = 900 * (220 / 900) ** ((s.bottom - (m.clientY - box.top)) / (s.bottom - s.top))
    hand.edit('Drag', setParam(props.id, 'open', Math.log(f1 / 250) / Math.log(780 / 250)))
    hand.edit('Drag', setParam(props.id, 'front', Math.log(f2 / 800) / Math.log(2350 / 800)))
  }
  hand.drag(e, 'Drag the vowel', move)
  move(e)
}

const keep = (label: string, next: readonly OwnVowel[]): void =>
  doc.edit(label, setData(props.id, 'vowels', next))

/**
 * Adds what is heard as a vowel of one's own, behind the chosen one; the first brings the effect over to the
 * own list.
 */
function add(): void {
  const now = live.now()
  const [f1, f2] = at(now)
  const sign = vowelNear(f1, f2)
  const near = ownFrom(
    Math.max(
      0,
      vowels.findIndex((v) => v.sign === sign),
    ),
  )
  // in the own list it is a copy of what sounds there, elsewhere the nearest vowel with its first two peaks
  // where they are heard
  const heard =
    (now.mode ?? 0) === 2 && shown.value
      ? { ...shown.value, name: '' }
      : {
          ...near,
          peaks: near.peaks.map((p, n) =>
            n === 0 ? { ...p, frequency: f1 } : n === 1 ? { ...p, frequency: f2 } : p,
          ),
        }
  const places = chosen.value + (own.value.length ? 1 : 0)
  const next = [
    ...own.value.slice(0, places),
    { ...heard, name: freeName(heard.name || sign) },
    ...own.value.slice(places),
  ]
  doc.edit(
    'Add a vowel',
    together(
      setData(props.id, 'vowels', next),
      setParam(props.id, 'mode', 2),
      setParam(props.id, 'position', next.length > 1 ? places / (next.length - 1) : 0),
    ),
  )
  chosen.value = places
}
/** Adds one of the known vowels at the end of the list. */
function addSign(sign: string): void {
  const next = [
    ...own.value,
    {
      ...ownFrom(
        Math.max(
          0,
          vowels.findIndex((v) => v.sign === sign),
        ),
      ),
      name: freeName(sign),
    },
  ]
  doc.edit('Add a vowel', together(setData(props.id, 'vowels', next), setParam(props.id, 'mode', 2)))
  chosen.value = next.length - 1
}
/** A name that no other vowel of the list has. */
function freeName(name: string): string {
  const taken = new Set(own.value.map((v) => v.name))
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} ${n}`
    if (!taken.has(free)) return free
  }
}

/** Chooses a vowel of the list, and lets it sound. */
function choose(i: number): void {
  chosen.value = i
  doc.edit(
    'Go to a vowel',
    together(
      setParam(props.id, 'mode', 2),
      setParam(props.id, 'position', own.value.length > 1 ? i / (own.value.length - 1) : 0),
    ),
  )
}
/** The vowel of the list that sounds, by its name. */
const sounding = computed(() =>
  (live.base.value.mode ?? 0) === 2 && own.value.length
    ? own.value[Math.round((live.base.value.position ?? 0) * (own.value.length - 1))]
    : undefined,
)

const peakSpecs = {
  frequency: hertz('frequency', { min: 60, max: 12_000, default: 500 }),
  level: decibel('level', { min: -24, max: 30, default: 12 }),
  width: hertz('width', { min: 10, max: 4000, default: 80 }),
} as const
const change = (n: number, what: keyof typeof peakSpecs, value: number): void =>
  keep(
    'Set a peak',
    own.value.map((v) =>
      v === shown.value ? { ...v, peaks: v.peaks.map((p, m) => (m === n ? { ...p, [what]: value } : p)) } : v,
    ),
  )
</script>

<template>
  <div class="flex flex-col">
    <canvas
      v-if="view === 'plane'"
      ref="canvas"
      class="min-h-0 w-full flex-1 cursor-move touch-none"
      role="img"
      aria-label="Vowels on the plane of the first two formants"
      title="Drag jaw and tongue"
      @pointerdown="press"
    />
    <ResponsePicture v-else-if="view === 'response'" :id="id" :marks="vowelMarks" class="min-h-0 flex-1" />
    <div v-else class="min-h-0 flex-1 overflow-y-auto text-small">
      <p v-if="!own.length" class="pb-2 text-second">
        No vowels of your own yet. Add the current one, then change its formants.
      </p>
      <div class="flex flex-wrap gap-1 pb-2">
        <button
          v-for="(v, i) in own"
          :key="i"
          class="small-button"
          :aria-pressed="v === shown"
          :title="`${v.name || i + 1}: plays the vowel and shows its formants`"
          @click="choose(i)"
        >
          {{ v.name || i + 1 }}
        </button>
        <button class="small-button" title="Adds the current vowel to your list" @click="add">Add</button>
        <span class="flex items-center gap-0.5 text-second">
          or
          <button
            v-for="v in vowels"
            :key="v.sign"
            class="small-button water-name"
            :aria-label="`Add the vowel ${v.sign}`"
            :title="`Adds ${v.sign} to the list`"
            @click="addSign(v.sign)"
          >
            {{ v.sign }}
          </button>
        </span>
        <span v-if="sounding" class="text-second" role="status"
          >Plays: <b class="water-name text-name text-ink">{{ sounding.name }}</b></span
        >
        <button
          v-if="shown"
          class="small-button"
          @click="
            () => {
              keep(
                'Remove the vowel',
                own.filter((v) => v !== shown),
              )
              chosen = 0
            }
          "
        >
          Remove
        </button>
      </div>
      <template v-if="shown">
        <label class="flex items-center gap-2 pb-1"
          >Name
          <TextField
            class="field w-22.5"
            :value="shown.name"
            @change="
              keep(
                'Name the vowel',
                own.map((v) => (v === shown ? { ...v, name: ($event.target as HTMLInputElement).value } : v)),
              )
            "
            @keydown.stop
        /></label>
        <table class="w-full">
          <thead>
            <tr class="text-left text-second">
              <th class="font-normal">peak</th>
              <th class="font-normal">Hz</th>
              <th class="font-normal">dB</th>
              <th class="font-normal">width Hz</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(p, n) in shown.peaks" :key="n">
              <td>{{ n + 1 }}</td>
              <td v-for="(spec, what) in peakSpecs" :key="what">
                <ValueField
                  class="w-19"
                  :spec="{ ...spec, name: `${what} of peak ${n + 1}` }"
                  :value="p[what]"
                  @take="change(n, what, $event)"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </div>
    <div class="flex gap-3 pt-1 text-small" role="group" aria-label="Vowel view">
      <button
        v-for="(text, v) in { plane: 'Plane', response: 'Response', own: 'Own vowels' } as const"
        :key="v"
        :class="view === v ? 'border-b-2 border-magenta font-semibold' : 'text-second'"
        :aria-pressed="view === v"
        @click="view = v"
      >
        {{ text }}
      </button>
    </div>
  </div>
</template>
