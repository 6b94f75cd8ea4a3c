<script setup lang="ts">
import type { Column } from '~/views/trace/align'

/**
 * The line of one lane: drawn through where the packet goes, dotted where it goes only if faults
 * were mended.
 */
const props = defineProps<{ columns: readonly Column[]; lane: 'there' | 'back' }>()
const parts = computed(() => {
  const stops = props.columns.map((column) => column[props.lane])
  const first = stops.findIndex((stop) => stop !== null)
  const last = stops.findLastIndex((stop) => stop !== null)
  let known: 'real' | 'assumed' = 'real'
  const walkOrder =
    props.lane === 'there' ? stops.map((_, i) => i) : stops.map((_, i) => stops.length - 1 - i)
  const kinds = new Array<'real' | 'assumed' | 'none'>(stops.length).fill('none')
  for (const index of walkOrder) {
    const stop = stops[index]
    if (stop && stop.stations.every((station) => station.assumed)) known = 'assumed'
    if (index >= first && index <= last && first >= 0) kinds[index] = known
  }
  return kinds
})
</script>

<template>
  <div class="flex">
    <span
      v-for="(part, index) in parts"
      :key="index"
      class="h-0 flex-1"
      :class="
        part === 'real'
          ? 'border-t-2 border-ink'
          : part === 'assumed'
            ? 'border-t-2 border-dotted border-faint'
            : ''
      "
    />
  </div>
</template>
