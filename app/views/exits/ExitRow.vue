<script setup lang="ts">
import type { SubnetItem } from '~/views/exits/arrange'
import type { ShownColumn } from '~/views/exits/columns'
import type { Cell } from '~/views/exits/cells'
import { baseCellOf, type BaseCells } from '~/views/exits/useBaseCells'

/**
 * One row of the matrix. It knows nothing of the others, so that scrolling draws only rows that
 * come into sight.
 */
const props = defineProps<{
  item: SubnetItem
  index: number
  columns: readonly ShownColumn[]
  template: string
  /** The cell of a row in a column; null while it is fetched. */
  cellOf: (item: SubnetItem, column: number) => Cell | null
  /** Where it stands in the list, and how high it is; in pixels. */
  start: number
  size: number
  /** Which of its cells is the current one, or −1. */
  current: number
  hasFocus: boolean
  selected: boolean
  /** What cells say in the base of the draft that is looked at. */
  baseCells: BaseCells
}>()
const emit = defineEmits<{
  pick: [index: number, column: number]
  ask: []
  select: [index: number]
  fold: [id: string]
}>()
const cells = computed(() => props.columns.map((_, column) => props.cellOf(props.item, column)))
const inBase = computed(() =>
  props.columns.map((column) => baseCellOf(props.baseCells, props.item.subnet.id, column)),
)
</script>

<template>
  <div
    role="row"
    :aria-rowindex="index + 1"
    :aria-selected="selected"
    class="absolute top-0 left-0 grid w-full border-b border-hair"
    :style="{
      gridTemplateColumns: template,
      height: `${size}px`,
      transform: `translateY(${start}px)`,
    }"
  >
    <div
      role="rowheader"
      class="sticky left-0 z-[1] flex items-center gap-2 overflow-hidden pr-2 pl-4 whitespace-nowrap"
      :class="selected ? 'bg-wash shadow-[inset_3px_0_var(--focus)]' : 'bg-ground'"
      :title="item.all.length > 1 ? `${item.all.length} subnets that are alike` : item.subnet.id"
      @click="emit('select', index)"
    >
      <span class="truncate">{{ item.name }}</span>
      <button
        v-if="item.all.length > 1"
        type="button"
        tabindex="-1"
        class="cursor-pointer border-b border-rule text-xs text-soft hover:text-ink"
        :aria-label="`${item.all.length - 1} like it: show the rows like ${item.name}`"
        @click.stop="emit('fold', item.fold!)"
      >
        {{ item.all.length - 1 }} like it
      </button>
      <span v-if="item.subnet.role" class="text-xs text-soft">{{ item.subnet.role }}</span>
      <span class="ml-auto text-xs text-faint"
        ><span
          v-if="item.row?.zone"
          class="text-weak"
          :title="`All its ways to the internet and to services pass zone ${item.row.zone}: the loss of that zone takes them down`"
          >needs {{ item.row.zone }}, in </span
        >{{ item.subnet.zone ?? item.subnet.region }}</span
      >
    </div>
    <div
      v-for="(cell, column) in cells"
      :id="`cell-${index}-${column}`"
      :key="column"
      role="gridcell"
      :aria-selected="column === current"
      class="flex cursor-pointer items-center gap-[7px] overflow-hidden pr-2 pl-2 whitespace-nowrap"
      :class="
        column === current
          ? hasFocus
            ? 'bg-wash outline-2 -outline-offset-1 outline-focus'
            : 'bg-wash'
          : ''
      "
      @click="emit('pick', index, column)"
      @dblclick="emit('ask')"
    >
      <template v-if="cell">
        <WayBadge :kind="cell.kind" />
        <span
          class="truncate"
          :class="cell.kind !== 'lost' ? '' : column === current ? 'text-soft' : 'text-faint'"
          >{{ cell.text }}<span v-if="cell.next" class="text-soft">, {{ cell.next }}</span></span
        >
        <span
          v-if="cell.others > 0"
          class="text-xs text-soft"
          :title="`${cell.others} further way${cell.others > 1 ? 's' : ''}`"
          >+{{ cell.others }}</span
        >
        <span
          v-if="inBase[column]"
          class="border-b-2 border-draft text-xs text-soft"
          :title="`In the base: ${inBase[column]}`"
          >was {{ inBase[column] }}</span
        >
        <ProblemMark v-if="cell.mark" :mark="cell.mark" class="ml-auto" />
      </template>
      <span v-else class="pl-7 text-faint">…</span>
    </div>
  </div>
</template>
