<script setup lang="ts">
import { type ResponseScope, partOf } from '@oleaje/core/analysis/chain-response'
import type { MeasuredResponse } from '@oleaje/core/analysis/measured-response'
import { specAt } from '@oleaje/core/project/targets'
import type { ChainNode } from '@oleaje/core/project/schema'
import { findOwner, heardChain } from '@oleaje/core/project/walk'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { computed, ref, shallowRef } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { responseViews } from '../../stores/picture-choices'
import { drawCurve, drawSheet, frequencyAt, frequencyAxis } from './profile'

/**
 * What a whole chain up to a node, or the branch that it stands in, does to each frequency: as set thin, as
 * it is now bold. Measured in the background.
 */
const props = defineProps<{ id: string; scope: ResponseScope }>()
const session = useSession()
const { doc, host, selection, screen } = session
const view = computed({
  get: () => screen.responseView,
  set: (to) => {
    screen.responseView = to
  },
})
const now = shallowRef<MeasuredResponse | null>(null)
const base = shallowRef<MeasuredResponse | null>(null)
const missing = ref(false)
let baseFor: unknown = null
let asked = 0
let busy = false

/** The nodes with each parameter where it stands now. */
function alive(nodes: readonly ChainNode[]): ChainNode[] {
  const project = doc.project
  const params = (owner: string, values: Record<string, number>): Record<string, number> => {
    const found = project && findOwner(project, owner)
    return Object.fromEntries(
      Object.entries(values).map(([k, v]) => {
        const spec = found && specAt(found, k)
        const key = `live:${owner}.${k}`
        return [
          k,
          spec && host.telemetry.has(key)
            ? fromNormalized(spec, host.telemetry.get(key, toNormalized(spec, v)))
            : v,
        ]
      }),
    )
  }
  return nodes.map((n): ChainNode =>
    n.kind === 'effect'
      ? { ...n, params: params(n.id, n.params), sidechain: null }
      : n.kind === 'split'
        ? {
            ...n,
            params: params(n.id, n.params),
            branches: n.branches.map((b) => ({
              ...b,
              params: params(b.id, b.params),
              nodes: alive(b.nodes),
            })),
          }
        : { ...n, params: params(n.id, n.params), nodes: alive(n.nodes) },
  )
}

async function measure(): Promise<void> {
  const track = selection.track
  const project = doc.project
  if (!track || !project || busy) return
  const nodes = partOf(heardChain(track).nodes, props.id, props.scope)
  missing.value = !nodes
  if (!nodes) return
  busy = true
  try {
    // plain copies, since what is reactive cannot go to the worker
    const plain = (list: ChainNode[]): ChainNode[] => JSON.parse(JSON.stringify(list)) as ChainNode[]
    now.value = await session.heavy.call.chainResponse(plain(alive(nodes)), project.sampleRate)
    if (baseFor !== heardChain(track)) {
      baseFor = heardChain(track)
      base.value = await session.heavy.call.chainResponse(plain(nodes), project.sampleRate)
    }
  } finally {
    busy = false
  }
}

const value = (r: MeasuredResponse, k: number): number =>
  view.value === 'magnitude'
    ? 20 * Math.log10((r.magnitude[k] ?? 0) + 1e-6)
    : view.value === 'phase'
      ? ((r.phase[k] ?? 0) * 180) / Math.PI
      : (r.groupDelay[k] ?? 0) * 1000

const canvas = useCanvas((pen, time) => {
  if (time - asked > 120) {
    asked = time
    void measure()
  }
  const { g, color, width, height } = pen
  const heights = {
    magnitude: {
      min: -48,
      max: 30,
      marks: [
        [24, '+24'],
        [12, '+12'],
        [0, '0'],
        [-12, '−12'],
        [-24, '−24'],
        [-36, '−36'],
      ],
    },
    phase: {
      min: -190,
      max: 190,
      marks: [
        [180, '180°'],
        [90, '90°'],
        [0, '0'],
        [-90, '−90°'],
        [-180, '−180°'],
      ],
    },
    delay: {
      min: 0,
      max: 20,
      marks: [
        [0, '0'],
        [5, '5 ms'],
        [10, '10'],
        [15, '15'],
        [20, '20'],
      ],
    },
  } as const
  const s = drawSheet(pen, frequencyAxis, heights[view.value])
  if (missing.value) {
    g.fillStyle = color('second')
    g.textAlign = 'center'
    g.fillText('The effect is not in a branch.', width / 2, height / 2)
    return
  }
  const curve =
    (r: MeasuredResponse) =>
    (x: number): number => {
      const at = (frequencyAt(s, x, 20, 20_000) / r.sampleRate) * r.frames
      const k = Math.floor(at)
      const a = value(r, k)
      const b = value(r, k + 1)
      return s.y(Math.abs(b - a) > 180 ? a : a + (b - a) * (at - k))
    }
  if (now.value)
    drawCurve(pen, s, curve(now.value), {
      color: color('ink'),
      width: 2.5,
      fill: view.value === 'magnitude' ? color('water') : undefined,
    })
  if (base.value) drawCurve(pen, s, curve(base.value), { color: color('second'), width: 1 })
})
</script>

<template>
  <div class="flex flex-col">
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      :aria-label="
        scope === 'branch'
          ? 'Response of the branch, measured live'
          : 'Response of the chain up to here, measured live'
      "
    />
    <div class="flex gap-3 pt-1 text-small" role="group" aria-label="Response">
      <button
        v-for="{ value: v, text } in responseViews"
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
