<script setup lang="ts">
import { type MeasurementId, measurementIds, measurements } from '@oleaje/core/lab/measurements'
import { fileOpen, fileSave } from 'browser-fs-access'
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useSession } from '../../composables/useSession'
import { figureText } from './figure-text'

/** What is measured and how on the left; a chart, its cursors and figures on the right. */
const session = useSession()
const { doc, lab, screen, selection, views } = session
const { kind, running, said, shown } = lab
const { charts, differs, figures, overlays, references } = shown
const at = ref('')
const cursors = shallowRef<readonly (number | null)[]>([null, null])
const drawn = ref<{ png(): Blob; svg(): Blob; zoom(by: number): void } | null>(null)

const chart = computed(() => charts.value.find((c) => c.id === at.value) ?? charts.value[0])
const curves = computed(() => (chart.value ? shown.curvesOf(chart.value.id) : []))
watch(
  () => chart.value?.id,
  () => {
    cursors.value = [null, null]
  },
)
// what is there is of another track or project
watch(
  () => [doc.project?.id, selection.track?.id] as const,
  () => {
    if (doc.project && selection.track && !running.value && lab.isOld) void lab.run()
  },
  { immediate: true },
)
function choose(id: MeasurementId): void {
  kind.value = id
  void lab.run()
}
const name = (ext: string): string =>
  `${selection.track?.name ?? 'chain'}, ${chart.value?.title ?? ''}.${ext}`
const save = (blob: Blob, ext: string): void =>
  void fileSave(blob, { fileName: name(ext), extensions: [`.${ext}`] }).catch(() => {})
const exports = computed(() => [
  [
    {
      text: 'Save curves as CSV…',
      tip: 'Saves the drawn curves as a table',
      disabled: !chart.value,
      run: () => chart.value && save(new Blob([shown.csv(chart.value)], { type: 'text/csv' }), 'csv'),
    },
    {
      text: 'Save picture as PNG…',
      tip: 'Saves the chart as it is seen, twice as large',
      disabled: !chart.value,
      run: () => drawn.value && save(drawn.value.png(), 'png'),
    },
    {
      text: 'Save picture as SVG…',
      tip: 'Saves the whole chart as a drawing',
      disabled: !chart.value,
      run: () => drawn.value && save(drawn.value.svg(), 'svg'),
    },
  ],
  [
    {
      text: 'Add reference curve…',
      tip: 'Lays a curve from a CSV file over the chart',
      disabled: !chart.value || !!chart.value.map,
      run: () => void addReference(),
    },
    {
      text: 'Remove reference curves',
      tip: 'Takes all curves from files off the chart',
      disabled: references.value.length === 0,
      run: () => {
        references.value = []
      },
    },
  ],
])
async function addReference(): Promise<void> {
  const file = await fileOpen({
    extensions: ['.csv', '.txt', '.tsv'],
    description: 'Tables of curves',
  }).catch(() => null)
  if (file && chart.value) said.value = shown.addReference(chart.value.id, await file.text(), file.name)
}
/** Tables that are dropped here are reference curves; other files are for the page. */
async function dropped(e: DragEvent): Promise<void> {
  const [file] = [...(e.dataTransfer?.files ?? [])]
  if (!file || !/\.(csv|tsv|txt)$/i.test(file.name) || !chart.value) return
  e.preventDefault()
  said.value = shown.addReference(chart.value.id, await file.text(), file.name)
}
const groups = [...new Set(measurementIds.map((id) => measurements[id].group))].map((group) => ({
  group,
  ids: measurementIds.filter((id) => measurements[id].group === group),
}))
useEventListener('keydown', (e) => {
  if (e.key === 'Escape' && !screen.dialog && !(e.target as Element).closest?.('input')) void views.go('/')
})
</script>

<template>
  <section class="grid min-h-0 grid-cols-[180px_minmax(0,1fr)_272px]" aria-label="Lab" @drop="dropped">
    <nav class="overflow-y-auto border-r border-line px-3 py-2" aria-label="Measurements">
      <template v-for="g in groups" :key="g.group">
        <h2 class="panel-title mt-2 first:mt-0">{{ g.group }}</h2>
        <ul>
          <li v-for="id in g.ids" :key="id">
            <button
              class="kind w-full px-1 py-0.5 text-left"
              :aria-pressed="kind === id"
              :title="measurements[id].explains"
              @click="choose(id)"
            >
              {{ measurements[id].name }}
            </button>
          </li>
        </ul>
      </template>
    </nav>
    <div class="flex min-h-0 min-w-0 flex-col">
      <div class="flex items-center gap-2 border-b border-line px-3 py-1.5">
        <button
          class="plain-button"
          :disabled="running || !selection.track"
          title="Measures the chosen states again"
          @click="lab.run()"
        >
          Measure
        </button>
        <button class="plain-button" :disabled="!running" title="Stops measuring" @click="lab.cancel()">
          Cancel
        </button>
        <button
          class="plain-button"
          :disabled="overlays.length === 0"
          title="Keeps the first overlay with the project, to be measured again later"
          @click="lab.keep()"
        >
          Keep
        </button>
        <ActionMenu label="Files" tip="CSV, PNG, SVG and reference curves" :groups="exports"
          >Files…</ActionMenu
        >
        <p role="status" class="min-w-0 flex-1 truncate text-right text-second" :title="said">
          {{ running ? 'Measuring…' : said }}
        </p>
      </div>
      <div class="flex items-center gap-1 px-3 py-1.5">
        <div role="group" aria-label="Charts" class="flex min-w-0 flex-wrap gap-1">
          <button
            v-for="c in charts"
            :key="c.id"
            class="small-button px-2"
            :aria-pressed="chart?.id === c.id"
            title="Shows this chart"
            @click="at = c.id"
          >
            {{ c.title }}
          </button>
        </div>
        <span class="flex-1" />
        <button
          class="small-button px-2"
          :aria-pressed="differs"
          :disabled="!chart || !!chart.map"
          title="Shows how far the other curves lie above those of the first overlay"
          @click="differs = !differs"
        >
          Difference
        </button>
        <button
          class="small-button"
          aria-label="Zoom in"
          title="Zooms in (+)"
          :disabled="!chart"
          @click="drawn?.zoom(1.5)"
        >
          +
        </button>
        <button
          class="small-button"
          aria-label="Zoom out"
          title="Zooms out (−)"
          :disabled="!chart"
          @click="drawn?.zoom(1 / 1.5)"
        >
          −
        </button>
        <button class="small-button px-2" title="Shows all (0)" :disabled="!chart" @click="drawn?.zoom(0)">
          All
        </button>
      </div>
      <CurveChart
        v-if="chart"
        :key="chart.id"
        ref="drawn"
        v-model:cursors="cursors"
        class="flex-1 px-1"
        :chart="chart"
        :curves="curves"
      />
      <p v-else class="flex-1 p-6 text-second">
        {{ selection.track ? 'No measurement yet.' : 'Add a track, then measure its chain here.' }}
      </p>
      <p class="border-t border-line px-3 py-1 text-small text-second">{{ measurements[kind].explains }}</p>
      <div v-if="chart && !chart.map" class="max-h-32 overflow-y-auto px-3 pb-1">
        <LabValues :chart="chart" :curves="curves" :cursors="cursors" />
      </div>
    </div>
    <LabSettings class="overflow-y-auto border-l border-line px-3 py-2">
      <table v-if="figures.length" class="mt-1 w-full text-small" aria-label="Figures">
        <thead v-if="overlays.length > 1">
          <tr>
            <td />
            <th
              v-for="o in overlays"
              :key="o.key"
              class="max-w-16 truncate pl-2 text-right font-medium"
              :title="o.name"
            >
              {{ o.name }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in figures" :key="i">
            <th class="pr-1 text-left font-normal text-second">{{ row.figure.name }}</th>
            <td v-for="(v, k) in row.values" :key="k" class="pl-2 text-right align-bottom whitespace-nowrap">
              {{ figureText(v, row.figure.unit) }}
            </td>
          </tr>
        </tbody>
      </table>
    </LabSettings>
  </section>
</template>

<style scoped>
.kind[aria-pressed='true'] {
  background: var(--shoal);
  font-weight: 600;
}
</style>
