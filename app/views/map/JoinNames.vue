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
const names = computed(() => {
  const named = props.edges.filter(({ edge }) => edge.by !== null)
  if (named.length > MOST_NAMES) return []
  return named.flatMap(({ edge, points }) => {
    const at = longestUpright(points)
    if (at === null) return []
    const isDimmed = props.isDim(edge.from) || props.isDim(edge.to)
    return [{ text: nameOf(edge.by!), x: at.x - 4, y: at.y, isDimmed }]
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
      stroke-width="3"
      stroke-linejoin="round"
      :opacity="name.isDimmed ? 0.35 : 1"
    >
      {{ name.text }}
    </text>
  </g>
</template>
