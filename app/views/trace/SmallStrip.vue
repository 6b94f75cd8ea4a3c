<script setup lang="ts">
import { explainCause, type Branch } from '@salt-trail/core'
import { alignLanes, columnOf, type Stop } from '~/views/trace/align'
import { stopTitle } from '~/views/trace/stop-words'

/**
 * Both directions of a trace at a glance, upright: a row for each place, a gap where only one
 * direction passes it.
 */
const props = defineProps<{ branch: Branch }>()
const rows = computed(() => {
  const columns = alignLanes(props.branch)
  const { cause } = props.branch
  const lane = cause?.direction === 'return' ? 'back' : 'there'
  const fault = cause ? columnOf(columns, lane, cause.station) : -1
  return columns.map(({ there, back }, index) => ({
    title: stopTitle((there ?? back)!),
    lanes: [['there', there] as const, ['back', back] as const].map(([name, stop]) => {
      const fails = index === fault && lane === name
      return { name, stop, fails, said: fails ? explainCause(cause!) : said(stop) }
    }),
  }))
})
const assumed = (stop: Stop): boolean => stop.stations.every((station) => station.assumed)
const said = (stop: Stop | null): string => {
  if (stop === null) return 'not passed'
  const decision = stop.stations.at(-1)!.decision
  return assumed(stop) ? `if mended: ${decision}` : decision
}
</script>

<template>
  <table class="w-full table-fixed border-collapse text-xs">
    <thead>
      <tr class="text-left text-soft">
        <th class="w-[34%] py-1 pr-2 font-medium">passed</th>
        <th class="py-1 pr-2 pl-2 font-medium">there</th>
        <th class="py-1 pl-2 font-medium">back</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, index) in rows" :key="index" class="border-t border-hair align-top">
        <th scope="row" class="py-1 pr-2 text-left font-semibold break-words">{{ row.title }}</th>
        <td
          v-for="lane in row.lanes"
          :key="lane.name"
          class="border-l-2 px-2 py-1 break-words"
          :class="[
            lane.fails
              ? 'hatched text-ink'
              : lane.stop === null || assumed(lane.stop)
                ? 'text-faint'
                : 'text-soft',
            lane.stop === null
              ? 'border-transparent'
              : assumed(lane.stop)
                ? 'border-dotted border-faint'
                : 'border-ink',
          ]"
        >
          <span class="flex gap-1.5"
            ><ProblemMark v-if="lane.fails" mark="hole" label="here it fails" class="mt-0.5" />{{
              lane.said
            }}</span
          >
        </td>
      </tr>
    </tbody>
  </table>
</template>
