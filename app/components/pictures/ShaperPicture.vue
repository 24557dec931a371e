<script setup lang="ts">
import { firstTransferCurve, shapeOf } from '@oleaje/core/effects/shaper'
import { setData } from '@oleaje/core/project/value-edits'
import { computed, ref } from 'vue'
import { useLive } from '../../composables/useLive'
import { useGesture } from '../../composables/useGesture'

/**
 * The transfer curve to be drawn: input from left to right, output from bottom to top; the line stands at the
 * highest input now.
 */
const props = defineProps<{ id: string }>()
const hand = useGesture()
const live = useLive(props.id)
const tool = ref<'points' | 'draw' | 'line'>('points')
const points = computed(() => shapeOf(live.effect.value?.data))
const reach = (): number => {
  const now = live.now()
  return Math.min(
    1,
    Math.max(0, 0.5 + 0.5 * (live.readout('input') * 10 ** ((now.gain ?? 0) / 20) + (now.offset ?? 0))),
  )
}
const keep = (next: unknown): void => hand.edit('Draw the curve', setData(props.id, 'points', next))
</script>

<template>
  <div class="flex flex-col">
    <div class="flex gap-1 pb-1" role="group" aria-label="Tool">
      <button
        v-for="k in ['points', 'draw', 'line'] as const"
        :key="k"
        class="small-button"
        :aria-pressed="tool === k"
        @click="tool = k"
      >
        {{ k }}
      </button>
      <span class="flex-1" />
      <button
        class="small-button"
        title="Resets the curve to a straight line"
        @click="
          keep([
            { x: 0, y: 0, bend: 0 },
            { x: 1, y: 1, bend: 0 },
          ])
        "
      >
        Straight
      </button>
      <button class="small-button" title="Resets the curve to the default" @click="keep(firstTransferCurve)">
        Default
      </button>
    </div>
    <CurveEditor
      class="min-h-0 flex-1 border border-line"
      :points="points"
      :length="1"
      :hue="live.ends.value?.hue ?? 4"
      name="Transfer curve"
      :snap="0"
      :grid="0.125"
      :tool="tool"
      :playhead="reach"
      @begin="hand.begin('Draw the curve')"
      @end="hand.end()"
      @change="keep"
    />
    <p class="flex justify-between pt-1 text-tiny text-second">
      <span>input −1</span><span>0</span><span>1</span>
    </p>
  </div>
</template>
