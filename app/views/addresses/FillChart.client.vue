<script setup lang="ts">
import '~/charts/setup'
import { Bar } from 'vue-chartjs'
import { useChartColours } from '~/charts/useChartColours'

/** The subnets with the fewest addresses left, by how much of each is taken. */
const props = defineProps<{
  subnets: readonly { readonly subnet: string; readonly taken: number; readonly usable: number }[]
}>()
const colours = useChartColours()
const data = computed(() => ({
  labels: props.subnets.map(({ subnet }) => subnet),
  datasets: [
    {
      data: props.subnets.map(({ taken, usable }) => (100 * taken) / usable),
      backgroundColor: colours.value.line,
      barThickness: 9,
    },
  ],
}))
const options = computed(() => ({
  indexAxis: 'y' as const,
  animation: false as const,
  maintainAspectRatio: false,
  scales: {
    x: {
      min: 0,
      suggestedMax: 5,
      ticks: { color: colours.value.soft, callback: (value: string | number) => `${value} %` },
      grid: { color: colours.value.rule },
    },
    y: { ticks: { color: colours.value.ink, autoSkip: false }, grid: { display: false } },
  },
  plugins: {
    legend: { display: false },
    tooltip: {
      callbacks: {
        label: (item: { dataIndex: number }) => {
          const one = props.subnets[item.dataIndex]!
          return `${one.taken.toLocaleString('en-GB')} of ${one.usable.toLocaleString('en-GB')} addresses taken`
        },
      },
    },
  },
}))
const said = computed(() =>
  props.subnets.map(({ subnet, taken, usable }) => `${subnet} ${taken} of ${usable}`).join(', '),
)
</script>

<template>
  <div :style="{ height: `${40 + subnets.length * 20}px` }">
    <Bar :data="data" :options="options" :aria-label="`Addresses taken: ${said}`" />
  </div>
</template>
