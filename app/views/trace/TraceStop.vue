<script setup lang="ts">
import type { PacketJson } from '@salt-trail/core'
import type { Stop } from '~/views/trace/align'
import { packetLines, stopTitle } from '~/views/trace/stop-words'

/** One place on a lane: what it is, what it decided, what changed in the packet. */
const props = defineProps<{
  stop: Stop
  before: PacketJson | null
  fault: boolean
  selected: boolean
  differs: boolean
}>()
const assumed = computed(() => props.stop.stations.every((station) => station.assumed))
const lines = computed(() => packetLines(props.stop, props.before))
</script>

<template>
  <button
    type="button"
    class="relative flex h-full min-h-[92px] w-full cursor-pointer flex-col items-start border-l border-hair px-3 pt-2.5 pb-3 text-left"
    :class="[
      selected ? 'outline-2 -outline-offset-2 outline-focus' : '',
      fault ? 'hatched' : selected ? 'bg-wash' : 'hover:bg-hair',
    ]"
    :aria-pressed="selected"
  >
    <span
      class="flex items-center gap-1.5 font-semibold break-words"
      :class="assumed ? 'text-faint' : ''"
    >
      <ProblemMark v-if="fault" mark="hole" label="here it fails" />{{ stopTitle(stop) }}
    </span>
    <span v-if="differs" class="text-xs font-semibold text-focus">here they part</span>
    <span
      v-for="(station, index) in stop.stations"
      :key="index"
      class="block text-xs"
      :class="assumed ? 'text-faint' : 'text-soft'"
      >{{ assumed ? 'if mended: ' : '' }}{{ station.decision }}</span
    >
    <span
      v-for="line in lines"
      :key="line.text"
      class="mono mt-1 block"
      :class="line.changed ? 'text-translated' : assumed ? 'text-faint' : ''"
      >{{ line.address }}<wbr />{{ line.port }}</span
    >
  </button>
</template>
