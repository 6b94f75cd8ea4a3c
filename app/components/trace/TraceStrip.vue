<script setup lang="ts">
import type { Branch, PacketJson } from '@salt-trail/core'
import { onKeyStroke } from '@vueuse/core'
import { alignLanes, type Stop } from '~/trace/align'
import { nameOf } from '~/trace/stop-words'

/**
 * The way there and the way back as two lanes of one strip, stations aligned: what is passed in
 * one direction only is a visible gap. One stop is selected; its evidence is shown below.
 */
const props = defineProps<{ branch: Branch; over: string }>()
const selected = defineModel<{ lane: 'there' | 'back'; column: number }>('selected', { required: true })

const columns = computed(() => alignLanes(props.branch))
const fault = computed(() => {
  const { cause } = props.branch
  if (!cause) return null
  const lane = cause.direction === 'forward' ? 'there' : 'back'
  const column = columns.value.findIndex((c) => {
    const stop = c[lane]
    return stop !== null && cause.station >= stop.first && cause.station < stop.first + stop.stations.length
  })
  return { lane, column } as const
})
const isFault = (lane: 'there' | 'back', column: number): boolean => fault.value?.lane === lane && fault.value.column === column
const isSelected = (lane: 'there' | 'back', column: number): boolean => selected.value.lane === lane && selected.value.column === column

/** The packet as it came to a stop: from the left on the way there, from the right on the way back. */
function packetBefore(lane: 'there' | 'back', column: number): PacketJson | null {
  const order = lane === 'there' ? columns.value.slice(0, column).reverse() : columns.value.slice(column + 1)
  const stop = order.map((c) => c[lane]).find((s): s is Stop => s !== null)
  return stop ? stop.stations.at(-1)!.packet : null
}

const gapText = (stop: Stop | null): string =>
  stop === null ? '' : stop.stations.every((s) => s.kind === 'lookup') ? 'not asked\nin this direction' : `${nameOf(stop.at)}\nis not passed`

function move(by: number): void {
  const { lane, column } = selected.value
  for (let next = column + by; next >= 0 && next < columns.value.length; next += by) {
    if (columns.value[next]![lane]) return void (selected.value = { lane, column: next })
  }
}
function change(lane: 'there' | 'back'): void {
  const { column } = selected.value
  const nearest = columns.value.map((c, index) => ({ index, stop: c[lane] })).filter((c) => c.stop !== null)
  if (nearest.length === 0) return
  const best = nearest.reduce((a, b) => (Math.abs(b.index - column) < Math.abs(a.index - column) ? b : a))
  selected.value = { lane, column: best.index }
}
onKeyStroke(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'], (event) => {
  if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return
  event.preventDefault()
  if (event.key === 'ArrowLeft') move(-1)
  else if (event.key === 'ArrowRight') move(1)
  else change(event.key === 'ArrowUp' ? 'there' : 'back')
})
const template = computed(() => `74px repeat(${columns.value.length}, minmax(132px, 1fr))`)
</script>

<template>
  <div class="overflow-x-auto border-t border-b border-ink border-b-rule bg-paper" tabindex="0" role="group" aria-label="The way there and the way back">
    <div class="grid" :style="{ gridTemplateColumns: template }" role="list" aria-label="The way there">
      <div class="pt-3 pr-2 text-right text-xs text-soft" role="presentation"><span class="block font-semibold text-ink">there</span>{{ over }}</div>
      <div v-for="(column, index) in columns" :key="index" role="listitem">
        <TraceStop
          v-if="column.there"
          :stop="column.there"
          :before="packetBefore('there', index)"
          :fault="isFault('there', index)"
          :selected="isSelected('there', index)"
          @click="selected = { lane: 'there', column: index }"
        />
        <div v-else class="flex h-full min-h-[92px] items-center justify-center border-l border-hair px-2 text-center text-xs whitespace-pre-line text-faint">
          {{ gapText(column.back) }}
        </div>
      </div>
    </div>
    <div class="ml-[74px] flex h-[18px] flex-col justify-evenly" aria-hidden="true">
      <LaneRail :columns="columns" lane="there" />
      <LaneRail :columns="columns" lane="back" />
    </div>
    <div class="grid" :style="{ gridTemplateColumns: template }" role="list" aria-label="The way back">
      <div class="pt-3 pr-2 text-right text-xs text-soft" role="presentation">
        <span class="block font-semibold text-ink">back</span>{{ branch.return ? 'the answer' : '' }}
      </div>
      <template v-if="branch.return">
        <div v-for="(column, index) in columns" :key="index" role="listitem">
          <TraceStop
            v-if="column.back"
            :stop="column.back"
            :before="packetBefore('back', index)"
            :fault="isFault('back', index)"
            :selected="isSelected('back', index)"
            @click="selected = { lane: 'back', column: index }"
          />
          <div v-else class="flex h-full min-h-[92px] items-center justify-center border-l border-hair px-2 text-center text-xs whitespace-pre-line text-faint">
            {{ gapText(column.there) }}
          </div>
        </div>
      </template>
      <p v-else class="col-span-full col-start-2 border-l border-hair px-3 py-5 text-xs text-soft" role="listitem">
        Nothing arrives, so there is nothing to answer.
      </p>
    </div>
  </div>
</template>
