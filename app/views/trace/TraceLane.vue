<script setup lang="ts">
import type { PacketJson } from '@salt-trail/core'
import type { Column, Stop } from '~/views/trace/align'
import { nameOf } from '~/views/trace/stop-words'

/** One direction of the strip: a stop in each column it passes, a gap in each it does not. */
const props = defineProps<{
  columns: readonly Column[]
  lane: 'there' | 'back'
  label: string
  about: string
  fault: number | null
  selected: number | null
  differs: number | null
  empty: boolean
}>()
const emit = defineEmits<{ select: [column: number] }>()

const other = computed(() => (props.lane === 'there' ? 'back' : 'there') as 'there' | 'back')
const template = computed(
  () => `74px repeat(${props.columns.length}, minmax(var(--stop-least), 1fr))`,
)

/**
 * The packet as it came to a stop: from the left on the way there, from the right on the way back.
 */
function packetBefore(column: number): PacketJson | null {
  const order =
    props.lane === 'there'
      ? props.columns.slice(0, column).reverse()
      : props.columns.slice(column + 1)
  const stop = order.map((c) => c[props.lane]).find((s): s is Stop => s !== null)
  return stop ? stop.stations.at(-1)!.packet : null
}

const gapText = (stop: Stop | null): string => {
  if (stop === null) return ''
  return stop.stations.every((station) => station.kind === 'lookup')
    ? 'not asked\nin this direction'
    : `${nameOf(stop.at)}\nis not passed`
}
</script>

<template>
  <div class="grid" :style="{ gridTemplateColumns: template }" role="list" :aria-label="label">
    <div class="pt-3 pr-2 text-right text-xs text-soft" role="presentation">
      <span class="block font-semibold text-ink">{{ lane }}</span>{{ about }}
    </div>
    <p
      v-if="empty"
      class="col-span-full col-start-2 border-l border-hair px-3 py-5 text-xs text-soft"
      role="listitem"
    >
      Nothing arrives, so there is nothing to answer.
    </p>
    <template v-else>
      <div v-for="(column, index) in columns" :key="index" role="listitem">
        <TraceStop
          v-if="column[lane]"
          :stop="column[lane]!"
          :before="packetBefore(index)"
          :fault="fault === index"
          :selected="selected === index"
          :differs="differs === index"
          @click="emit('select', index)"
        />
        <div
          v-else
          class="flex h-full min-h-[92px] items-center justify-center border-l border-hair px-2 text-center text-xs whitespace-pre-line text-faint"
        >
          {{ gapText(column[other]) }}
        </div>
      </div>
    </template>
  </div>
</template>
