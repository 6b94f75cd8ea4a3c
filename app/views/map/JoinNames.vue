<script setup lang="ts">
import { nameOf, type PlacedEdge } from '~/views/map/layout'
import { longestUpright } from '~/views/map/upright'

/** The names of joins that have one, such as peerings, along the longest upright part of each. */
const props = defineProps<{
  edges: readonly PlacedEdge[]
  /** Whether a mark is dimmed, since nothing that is laid over the map concerns it. */
  isDim: (ref: string) => boolean
}>()
/** More names than these would hide the lines. */
const MOST_NAMES = 24
/** Where along its line each name stands in turn, since lines lie close beside each other. */
const PLACES = [0.5, 0.25, 0.75]
const names = computed(() => {
  const named = props.edges.filter(({ edge }) => edge.by !== null)
  if (named.length > MOST_NAMES) return []
  return named.flatMap(({ edge, points }, index) => {
    const upright = longestUpright(points)
    if (upright === null) return []
    const isDimmed = props.isDim(edge.from) || props.isDim(edge.to)
    const y = upright.top + upright.height * PLACES[index % PLACES.length]!
    return [{ text: nameOf(edge.by!), x: upright.x, y, isDimmed }]
  })
})
</script>

<template>
  <g aria-hidden="true" pointer-events="none">
    <text
      v-for="name in names"
      :key="name.text"
      :transform="`translate(${name.x} ${name.y}) rotate(90)`"
      font-size="12"
      text-anchor="middle"
      fill="var(--soft)"
      paint-order="stroke"
      stroke="var(--ground)"
      stroke-width="5"
      dominant-baseline="central"
      stroke-linejoin="round"
      :opacity="name.isDimmed ? 0.35 : 1"
    >
      {{ name.text }}
    </text>
  </g>
</template>
