<script setup lang="ts">
import { formatAddress } from '@salt-trail/core'
import {
  kindOfRange,
  scaleOf,
  shareAt,
  stretchesOf,
  zoomed,
  type Sight,
  type Stretch,
} from '~/views/next-hops/ruler'
import type { HopRangeJson, WayKind } from '@salt-trail/core'

/**
 * The address space as a band from its lowest to its highest address, toned by way out. Small ranges
 * have more room than their size; any part can be zoomed in on.
 */
const props = defineProps<{
  ranges: readonly HopRangeJson[]
  family: 4 | 6
  chosen: HopRangeJson | null
  /** The ranges of another ruler that this one is aligned with. */
  alongside?: readonly HopRangeJson[] | undefined
}>()
const emit = defineEmits<{ choose: [range: HopRangeJson] }>()
const sight = ref<Sight>({ from: 0, to: 1 })
watch(
  () => [props.family, props.ranges],
  () => (sight.value = { from: 0, to: 1 }),
)
const scale = computed(() => scaleOf([props.ranges, props.alongside ?? []], props.family))
const stretches = computed(() => stretchesOf(props.ranges, props.family, scale.value))
const width = computed(() => sight.value.to - sight.value.from)
const inSight = computed(() =>
  stretches.value.filter((one) => one.to > sight.value.from && one.from < sight.value.to),
)
const TONES: Record<WayKind, string> = {
  translated: 'var(--translated)',
  inspected: 'var(--inspected)',
  direct: 'var(--direct)',
  'private-line': 'var(--line)',
  service: 'var(--service)',
  local: 'var(--local)',
  lost: 'var(--hair)',
}
const x = (place: number): number =>
  ((Math.min(Math.max(place, sight.value.from), sight.value.to) - sight.value.from) / width.value) *
  1000
const middle = (one: Stretch): number =>
  (Math.max(one.from, sight.value.from) + Math.min(one.to, sight.value.to)) / 2
const addressAt = (place: number): string =>
  formatAddress(
    props.family === 4
      ? Math.min(2 ** 32 - 1, Math.floor(place * 2 ** 32))
      : BigInt(Math.floor(Math.min(place, 1 - 2 ** -53) * 2 ** 53)) << 75n,
  )
const marks = computed(() =>
  [0, 0.25, 0.5, 0.75, 1].map((share) => ({
    share,
    text: addressAt(shareAt(scale.value, sight.value.from + share * width.value)),
  })),
)

function closer(by: number): void {
  const at = props.chosen && stretches.value.find((one) => one.range === props.chosen)
  sight.value = zoomed(sight.value, by, at ? middle(at) : (sight.value.from + sight.value.to) / 2)
}
/** Zooms so that the chosen range fills a third of the band. */
function fit(): void {
  const at = stretches.value.find((one) => one.range === props.chosen)
  if (at)
    sight.value = zoomed(
      { from: 0, to: Math.max((at.to - at.from) * 3, 2 ** -40) },
      1,
      (at.from + at.to) / 2,
    )
}
function onWheel(event: WheelEvent): void {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const place = sight.value.from + ((event.clientX - box.left) / box.width) * width.value
  sight.value = zoomed(sight.value, event.deltaY > 0 ? 1.4 : 0.7, place)
}
defineExpose({ fit })
</script>

<template>
  <figure class="px-4 pt-3" aria-label="The address space by way out">
    <svg
      viewBox="0 0 1000 44"
      preserveAspectRatio="none"
      class="h-11 w-full"
      role="img"
      :aria-label="`${inSight.length} ranges in sight`"
      @wheel.prevent="onWheel"
    >
      <defs>
        <pattern
          id="lost-lines"
          width="6"
          height="6"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width="2" height="6" fill="var(--faint)" />
        </pattern>
      </defs>
      <g
        v-for="one in inSight"
        :key="one.range.from"
        class="cursor-pointer"
        @click="emit('choose', one.range)"
      >
        <title>{{ one.range.from }} to {{ one.range.to }}</title>
        <rect
          :x="x(one.from)"
          y="6"
          :width="Math.max(x(one.to) - x(one.from), 0.6)"
          height="26"
          :fill="TONES[kindOfRange(one.range)]"
        />
        <rect
          v-if="one.range.cause"
          :x="x(one.from)"
          y="6"
          :width="Math.max(x(one.to) - x(one.from), 0.6)"
          height="26"
          fill="url(#lost-lines)"
          opacity="0.5"
        />
        <rect
          v-if="one.range === chosen"
          :x="x(one.from)"
          y="0"
          :width="Math.max(x(one.to) - x(one.from), 2)"
          height="44"
          fill="none"
          stroke="var(--focus)"
          stroke-width="3"
          vector-effect="non-scaling-stroke"
        />
      </g>
    </svg>
    <figcaption class="flex justify-between pt-1 text-xs text-soft">
      <span v-for="mark in marks" :key="mark.share" class="mono">{{ mark.text }}</span>
    </figcaption>
    <div class="flex items-center gap-3 pt-1.5 text-xs text-soft">
      <button type="button" class="cursor-pointer hover:text-ink" @click="closer(0.5)">
        closer
      </button>
      <button type="button" class="cursor-pointer hover:text-ink" @click="closer(2)">
        further
      </button>
      <button type="button" class="cursor-pointer hover:text-ink" :disabled="!chosen" @click="fit">
        fit the chosen range
      </button>
      <button
        type="button"
        class="cursor-pointer hover:text-ink"
        @click="sight = { from: 0, to: 1 }"
      >
        the whole space
      </button>
    </div>
  </figure>
</template>
