<script setup lang="ts">
import '~/charts/setup'
import { useMediaQuery } from '@vueuse/core'
import { Line } from 'vue-chartjs'
import type { RevisionHistory } from '~/api/answers'
import { useChartColours } from '~/charts/useChartColours'

/**
 * How many root causes, and findings of each family, every revision has. The lines differ by shape
 * as well as by colour.
 */
const props = defineProps<{ history: readonly RevisionHistory[] }>()
const colours = useChartColours()
const LINES = [
  { family: 'rootCauses', colour: 'ink', title: 'root causes', point: 'rect', dash: [] },
  { family: 'leak', colour: 'leak', title: 'leaks', point: 'triangle', dash: [2, 2] },
  { family: 'hole', colour: 'hole', title: 'black holes', point: 'circle', dash: [6, 3] },
  { family: 'weak', colour: 'weak', title: 'weak spots', point: 'rectRot', dash: [2, 3] },
] as const
const oldestFirst = computed(() => [...props.history].reverse())
const data = computed(() => ({
  labels: oldestFirst.value.map(({ number }) => `revision ${number}`),
  datasets: LINES.map(({ family, colour, title, point, dash }) => ({
    label: title,
    data: oldestFirst.value.map(({ counts }) => counts?.[family] ?? null),
    borderColor: colours.value[colour],
    backgroundColor: colours.value[colour],
    borderDash: [...dash],
    pointStyle: point,
    pointRadius: 4,
    borderWidth: 1.5,
    spanGaps: true,
  })),
}))
/** Beside the lines there is no room for their names. */
const isNarrow = useMediaQuery('(max-width: 1023px)')
const options = computed(() => ({
  animation: false as const,
  maintainAspectRatio: false,
  scales: {
    x: { ticks: { color: colours.value.soft }, grid: { display: false } },
    y: {
      beginAtZero: true,
      ticks: { color: colours.value.soft, precision: 0 },
      grid: { color: colours.value.hair },
    },
  },
  plugins: {
    legend: {
      position: isNarrow.value ? ('bottom' as const) : ('right' as const),
      labels: { color: colours.value.ink, usePointStyle: true, boxHeight: 7, boxWidth: 9 },
    },
  },
}))
const said = computed(() =>
  oldestFirst.value
    .flatMap(({ number, counts }) =>
      counts
        ? [
            `revision ${number}: ${LINES.map(({ family, title }) => `${counts[family]} ${title}`).join(', ')}`,
          ]
        : [],
    )
    .join('; '),
)
</script>

<template>
  <div class="h-36 max-lg:h-44">
    <Line :data="data" :options="options" :aria-label="`Findings of each revision. ${said}`" />
  </div>
</template>
