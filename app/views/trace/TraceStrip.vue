<script setup lang="ts">
import { decidedAt, type Branch } from '@salt-trail/core'
import { onKeyStroke } from '@vueuse/core'
import { alignLanes, columnOf } from '~/views/trace/align'

/**
 * The way there and the way back as two lanes of one strip, stations aligned: what is passed in
 * one direction only is a visible gap. One stop is selected; its evidence is shown below.
 */
const props = withDefaults(
  defineProps<{
    branch: Branch
    over: string
    differs?: { lane: 'there' | 'back'; column: number } | null
    keys?: boolean
  }>(),
  {
    differs: null,
    keys: true,
  },
)
const selected = defineModel<{ lane: 'there' | 'back'; column: number }>('selected', {
  required: true,
})

const columns = computed(() => alignLanes(props.branch))
const fault = computed(() => {
  const decided = decidedAt(props.branch)
  if (!decided) return null
  const lane = decided.direction === 'forward' ? 'there' : 'back'
  return { lane, column: columnOf(columns.value, lane, decided.station) } as const
})
function move(by: number): void {
  const { lane, column } = selected.value
  for (let next = column + by; next >= 0 && next < columns.value.length; next += by) {
    if (columns.value[next]![lane]) return void (selected.value = { lane, column: next })
  }
}
function change(lane: 'there' | 'back'): void {
  const { column } = selected.value
  const nearest = columns.value
    .map((c, index) => ({ index, stop: c[lane] }))
    .filter((c) => c.stop !== null)
  if (nearest.length === 0) return
  const best = nearest.reduce((a, b) =>
    Math.abs(b.index - column) < Math.abs(a.index - column) ? b : a,
  )
  selected.value = { lane, column: best.index }
}
onKeyStroke(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'], (event) => {
  if (!props.keys || isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey)
    return
  event.preventDefault()
  if (event.key === 'ArrowLeft') move(-1)
  else if (event.key === 'ArrowRight') move(1)
  else change(event.key === 'ArrowUp' ? 'there' : 'back')
})
</script>

<template>
  <div
    class="overflow-x-auto border-t border-b border-ink border-b-rule bg-paper"
    tabindex="0"
    role="group"
    aria-label="The way there and the way back"
  >
    <TraceLane
      lane="there"
      label="The way there"
      :about="over"
      :columns="columns"
      :fault="fault?.lane === 'there' ? fault.column : null"
      :selected="selected.lane === 'there' ? selected.column : null"
      :differs="differs?.lane === 'there' ? differs.column : null"
      :empty="false"
      @select="(column: number) => (selected = { lane: 'there', column })"
    />
    <div class="ml-[74px] flex h-[18px] flex-col justify-evenly" aria-hidden="true">
      <LaneRail :columns="columns" lane="there" />
      <LaneRail :columns="columns" lane="back" />
    </div>
    <TraceLane
      lane="back"
      label="The way back"
      :about="branch.return ? 'the answer' : ''"
      :columns="columns"
      :fault="fault?.lane === 'back' ? fault.column : null"
      :selected="selected.lane === 'back' ? selected.column : null"
      :differs="differs?.lane === 'back' ? differs.column : null"
      :empty="branch.return === null"
      @select="(column: number) => (selected = { lane: 'back', column })"
    />
  </div>
</template>
