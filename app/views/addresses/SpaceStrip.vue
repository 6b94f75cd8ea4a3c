<script setup lang="ts">
import { parseAddress, prefixOf, type SpaceRange } from '@salt-trail/core'
import { useElementSize } from '@vueuse/core'

/**
 * A range from its lowest to its highest address: what subnets have is filled, what is free is
 * open.
 */
const props = defineProps<{ network: string; range: SpaceRange; current: string | null }>()
const emit = defineEmits<{ choose: [subnet: string] }>()
const WIDTH = 1_000
const strip = ref<HTMLElement | null>(null)
const { width: shownWidth } = useElementSize(strip)
/** About how wide a letter is, and the space round a name, in pixels. */
const LETTER = 6.8
const ROUND = 10
const parts = computed(() => {
  const whole = prefixOf(props.range.prefix)
  return props.range.carved.map((one) => {
    const part = prefixOf(one.prefix)
    const bits = typeof whole.address === 'number' ? 32 : 128
    const offset =
      BigInt(parseAddress(one.prefix.slice(0, one.prefix.indexOf('/')))!) - BigInt(whole.address)
    const from = Number((offset * BigInt(WIDTH * 1000)) >> BigInt(bits - whole.length)) / 1000
    const width = Math.max(1.5, WIDTH * 2 ** (whole.length - part.length))
    const name = one.subnet.startsWith(`${props.network}-`)
      ? one.subnet.slice(props.network.length + 1)
      : one.subnet
    return {
      ...one,
      from,
      width,
      name: name.length * LETTER + ROUND <= (width / WIDTH) * shownWidth.value ? name : null,
    }
  })
})
</script>

<template>
  <div ref="strip" class="relative">
    <svg
      :viewBox="`0 0 ${WIDTH} 22`"
      preserveAspectRatio="none"
      class="h-[22px] w-full border border-rule bg-paper"
      role="img"
      :aria-label="`${range.prefix}: ${Math.round(range.carvedShare * 100)} percent carved`"
    >
      <rect
        v-for="part in parts"
        :key="part.prefix"
        :x="part.from"
        y="0"
        :width="part.width"
        height="22"
        class="cursor-pointer"
        :class="part.subnet === current ? 'fill-focus' : 'fill-line'"
        stroke="var(--paper)"
        stroke-width="1"
        vector-effect="non-scaling-stroke"
        @click="emit('choose', part.subnet)"
      >
        <title>
          {{ part.prefix }} {{ part.subnet }}: {{ part.taken }} of {{ part.usable }} addresses taken
        </title>
      </rect>
    </svg>
    <!-- Names where there is room for them; the others are named when they are pointed at. -->
    <template v-for="part in parts" :key="part.prefix">
      <span
        v-if="part.name"
        class="pointer-events-none absolute top-0 truncate text-center text-xs leading-[22px] text-paper"
        :style="{ left: `${part.from / 10}%`, width: `${part.width / 10}%` }"
        aria-hidden="true"
        >{{ part.name }}</span
      >
    </template>
  </div>
</template>
