<script setup lang="ts">
import type { MarkedRow } from '@salt-trail/core'
import { canOpen, type ShownColumn } from '~/exits/arrange'
import { COLUMNS, ORIGINS, waysInColumn, type ColumnKey, type Direction } from '~/exits/cells'
import type { Outline } from '~/stores/outline'

/** The headings of the matrix. A column that has members opens into them. */
const props = defineProps<{
  outline: Outline
  rows: readonly MarkedRow[]
  columns: readonly ShownColumn[]
  open: readonly string[]
  direction: Direction
  template: string
  shift: number
}>()
const emit = defineEmits<{ toggle: [column: ColumnKey] }>()
const ways = computed(() => new Map(COLUMNS.map(({ key }) => [key, waysInColumn(props.rows, key)])))
const about = (key: ColumnKey): string => {
  if (props.direction === 'entering') return ORIGINS[key]
  if (key === 'sameNetwork') return 'built in, unless steered'
  const n = ways.value.get(key)!
  return `${n.toLocaleString('en-GB')} ${n === 1 ? 'way' : 'ways'}`
}
</script>

<template>
  <div class="overflow-hidden border-b border-ink">
    <div class="grid w-max" :style="{ gridTemplateColumns: template, transform: `translateX(${-shift}px)` }">
      <div class="px-4 py-1.5 text-xs text-soft">Subnet</div>
      <div v-for="column in columns" :key="`${column.key} ${column.member}`" class="overflow-hidden px-2.5 py-1.5 whitespace-nowrap">
        <template v-if="column.member === null">
          <span class="flex items-baseline gap-2 font-semibold"
            >{{ column.title }}
            <button
              v-if="direction === 'leaving' && canOpen(outline, column.key)"
              type="button"
              class="cursor-pointer text-xs font-normal text-soft hover:text-ink"
              :aria-expanded="open.includes(column.key)"
              :aria-label="`${open.includes(column.key) ? 'Close' : 'Open'} ${column.title}`"
              @click="emit('toggle', column.key)"
            >
              {{ open.includes(column.key) ? 'close' : 'open' }}
            </button></span
          >
          <span class="block text-xs text-soft">{{ about(column.key) }}</span>
        </template>
        <template v-else>
          <span class="block truncate" :title="column.title">{{ column.title }}</span>
          <span class="block text-xs text-soft">{{ COLUMNS.find((one) => one.key === column.key)!.title.toLowerCase() }}</span>
        </template>
      </div>
    </div>
  </div>
</template>
